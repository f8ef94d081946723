"""The workspace file, and files that come and go."""

from wise_cellar.store.contents import KIND_OF, KINDS, Broken, Contents, Journey, Removal
from wise_cellar.store.exchange_files import read_exchange_file, write_exchange_file
from wise_cellar.store.workspace import Workspace
from wise_cellar.store.workspace_file import WorkspaceError

__all__ = [
    "KINDS",
    "KIND_OF",
    "Broken",
    "Contents",
    "Journey",
    "Removal",
    "Workspace",
    "WorkspaceError",
    "read_exchange_file",
    "write_exchange_file",
]
