"""PostgreSQL, in plain SQL: one module per table family. Functions take a connection and never commit."""
