"""Sample databases: a schema and the datasets that fill it."""
