"""Every buildable pack flown at once: what to search, what came of it, and which of it is worth building."""
