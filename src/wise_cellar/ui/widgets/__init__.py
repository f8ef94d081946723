"""Parts that several stations share."""
