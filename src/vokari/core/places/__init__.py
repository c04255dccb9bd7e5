"""Places of a client, the areas it serves, and where somebody who calls probably is."""
