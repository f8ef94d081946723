"""Devices on the bench and in the air: how they talk, links to them, and simulated stand-ins that ship."""

from wise_cellar.instruments.lines import Reading, Refusal, Understanding
from wise_cellar.instruments.links import Link, LinkError, link_to, needs_asking
from wise_cellar.instruments.listening import Event, EventKind, Listener
from wise_cellar.instruments.profile import Profile, profile_from_toml, profile_to_toml, read_profile, shipped_profiles
from wise_cellar.instruments.settling import Settling

__all__ = [
    "Event",
    "EventKind",
    "Link",
    "LinkError",
    "Listener",
    "Profile",
    "Reading",
    "Refusal",
    "Settling",
    "Understanding",
    "link_to",
    "needs_asking",
    "profile_from_toml",
    "profile_to_toml",
    "read_profile",
    "shipped_profiles",
]
