"""All that a bridge was set up with, to be kept in a repository and taken to another bridge; never a secret."""

from inkwell_bridge.core.configuration.differences import Difference, differences
from inkwell_bridge.core.configuration.folder import as_folder, from_folder
from inkwell_bridge.core.configuration.model import Configuration, LinkedCode, Telling, Timing

__all__ = ["Configuration", "Difference", "LinkedCode", "Telling", "Timing", "as_folder", "differences", "from_folder"]
