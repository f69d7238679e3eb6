"""What Morphe asks of the clips: each question in a module of its own, all of them one protocol."""
