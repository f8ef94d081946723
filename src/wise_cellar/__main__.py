"""``python -m wise_cellar`` is the same as the ``wise-cellar`` command."""

import sys

from wise_cellar.cli import main

# A search starts processes that read this module again.
if __name__ == "__main__":
    sys.exit(main())
