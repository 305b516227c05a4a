"""A machine or simulation elsewhere, or a file of joint states, followed as it moves."""

from mooring.bridge.following.follower import Follower, follow

__all__ = ["Follower", "follow"]
