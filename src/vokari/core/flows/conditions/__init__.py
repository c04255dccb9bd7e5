"""Conditions of Junctions: what each test asks, when it holds, how it is said, and how it is typed."""
