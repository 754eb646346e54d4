"""What Oracle's dialect means, step by step."""
