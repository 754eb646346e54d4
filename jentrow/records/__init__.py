"""What the web application keeps: SQLAlchemy models on SQLite, migrations, queries by use case."""
