"""Small datasets made up for a sample: rows that keep its constraints and look like its own."""
