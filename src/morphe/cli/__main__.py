import sys

from morphe.cli import main

sys.exit(main())
