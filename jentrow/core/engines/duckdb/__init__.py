"""DuckDB behind the protocol: embedded, its files open for reading only."""
