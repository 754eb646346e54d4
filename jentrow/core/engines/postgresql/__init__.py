"""PostgreSQL behind the protocol: a server, a schema for each dataset."""
