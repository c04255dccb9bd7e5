"""Use cases: one module per capability, each function one transaction, committed inside it."""
