"""What Db2's dialect means, and its own words."""
