"""The call-control protocol between a carrier and Vokari: signed events in, commands out. Described in docs/call-control.md."""
