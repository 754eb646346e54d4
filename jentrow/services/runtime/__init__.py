"""What a running server holds: wired in one place, shared by all use cases."""
