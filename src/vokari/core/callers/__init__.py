"""What is known of a caller: what came of earlier calls, and the share that they fall into."""
