"""The catalogue of single edits to a query: what people get wrong, and what mends it."""
