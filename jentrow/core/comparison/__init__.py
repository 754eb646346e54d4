"""Whether two result sets are the same, and what sets them apart."""
