"""What a query leaves open: rows that tie, moments, values that an engine picks."""
