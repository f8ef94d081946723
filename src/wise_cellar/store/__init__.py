"""The workspace file, and files that come and go."""

from wise_cellar.store.exchange_files import read_exchange_file, write_exchange_file
from wise_cellar.store.workspace import KIND_OF, Removal, Workspace, WorkspaceError

__all__ = ["KIND_OF", "Removal", "Workspace", "WorkspaceError", "read_exchange_file", "write_exchange_file"]
