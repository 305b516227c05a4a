"""Left and right: which items of a robot are each other's mirror image, and where they are not."""

from mooring.checks.twins.compare import Unlike, unlike_joints, unlike_links
from mooring.checks.twins.find import Mirror, mirror_of
from mooring.checks.twins.names import twin_names

__all__ = ["Mirror", "Unlike", "mirror_of", "twin_names", "unlike_joints", "unlike_links"]
