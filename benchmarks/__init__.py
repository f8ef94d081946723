"""Speed, as medians and ratios. Run with script/benchmark; what was seen stands in docs/performance.md."""
