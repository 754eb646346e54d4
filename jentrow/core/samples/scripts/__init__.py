"""Scripts of tables and rows in any dialect: cut, read, and laid into SQLite."""
