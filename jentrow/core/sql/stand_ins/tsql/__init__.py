"""What T-SQL means, step by step."""
