"""The agency: who may do what, who signs in, the clients with their mailboxes, Today, and the state of the stack."""
