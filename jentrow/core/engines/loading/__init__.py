"""How a dataset comes into an engine that is not SQLite: its tables, rules, views and rows."""
