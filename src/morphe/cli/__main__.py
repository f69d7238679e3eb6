from morphe.cli import run

run()
