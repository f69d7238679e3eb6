"""What the screen shows of a picture: the still, its scopes, and where the marks of the instruments lie."""
