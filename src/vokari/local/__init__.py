"""What runs Vokari on one machine: a private PostgreSQL and the processes of the demo and the tests."""
