"""What every use case works with: the database, the ports, jobs, and keeping to transactions."""
