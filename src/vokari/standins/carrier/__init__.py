"""The carrier: numbers set aside for fiction, legs, time on the wire, and the call-control protocol's other side."""
