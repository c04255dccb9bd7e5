"""What is true of a client as a whole: the time zone of its country and city."""
