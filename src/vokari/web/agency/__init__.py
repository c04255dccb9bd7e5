"""Pages of the agency: Today, clients, users, signing in, the state of the stack."""
