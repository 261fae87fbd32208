"""The show file: SQLite, plain SQL, one writer. Every edit is one transaction and one line of the journal."""
