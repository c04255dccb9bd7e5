"""Small simulated outside devices and services. They know the formats and nothing else of Vokari."""
