"""What the command line does on files, with no records."""
