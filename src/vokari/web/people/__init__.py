"""Pages of people and teams."""
