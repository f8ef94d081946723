"""The workspace file, and files that come and go."""

from wise_cellar.store.exchange_files import read_exchange_file, write_exchange_file
from wise_cellar.store.workspace import Removal, Workspace, WorkspaceError

__all__ = ["Removal", "Workspace", "WorkspaceError", "read_exchange_file", "write_exchange_file"]
