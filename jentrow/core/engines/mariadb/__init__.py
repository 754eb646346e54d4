"""MariaDB, and servers of the same protocol: a database for each dataset."""
