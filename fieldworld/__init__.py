"""The stand-ins: an invented coast and the field camera that photographs it."""
