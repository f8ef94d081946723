"""``python -m wise_cellar`` is the same as the ``wise-cellar`` command."""

import sys

from wise_cellar.cli import main

sys.exit(main())
