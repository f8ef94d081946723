"""Simulated devices that ship with the product: each obeys its own physics, and has truths that it does not send."""

from wise_cellar.instruments.stand_ins.kinds import KINDS, made
from wise_cellar.instruments.stand_ins.served import Served
from wise_cellar.instruments.stand_ins.stand_in import StandIn

__all__ = ["KINDS", "Served", "StandIn", "made"]
