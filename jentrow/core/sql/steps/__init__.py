"""The steps in which a query can be followed, and the query that shows each."""
