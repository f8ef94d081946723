"""Where the bundle begins: the command, as pip would install it."""

import sys

from wise_cellar.cli import main

sys.exit(main())
