"""Laws on plain SI arrays. One module per physical idea; none knows a document."""
