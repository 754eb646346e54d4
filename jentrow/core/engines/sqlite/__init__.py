"""SQLite: everything that is this engine's and no other's."""
