"""The kinds of edits, one a module: see :mod:`jentrow.core.sql.edits.catalogue`."""
