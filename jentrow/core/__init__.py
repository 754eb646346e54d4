"""The computation behind Jentrow: no web, no records, no global state."""
