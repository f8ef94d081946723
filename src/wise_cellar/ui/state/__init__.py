"""What the window shows and how it is changed: the session, edits of documents, jobs beside the window."""
