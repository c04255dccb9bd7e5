"""Tables and queries. Nothing here decides; `work` calls it inside one transaction."""
