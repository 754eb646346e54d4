"""A sample's tables: their columns, types, keys and constraints, and what is wrong with them."""
