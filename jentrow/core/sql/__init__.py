"""SQL as text and as structure. The engine alone decides whether SQL is valid."""
