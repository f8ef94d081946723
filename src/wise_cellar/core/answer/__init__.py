"""The answer to one design: how long it flies and why it ends, what to be careful about, how sure that is."""

from wise_cellar.core.answer.answering import answer
from wise_cellar.core.answer.bench import measured_capacity_percent
from wise_cellar.core.answer.doubts import Doubts
from wise_cellar.core.answer.ending import EndReason
from wise_cellar.core.answer.explain import Asked, as_text, explain
from wise_cellar.core.answer.known import as_known_flight
from wise_cellar.core.answer.landing import (
    AlarmCard,
    AlarmValue,
    PolicyOutcome,
    alarm_card,
    alarm_values,
    card_lines,
    card_values,
    policies,
)
from wise_cellar.core.answer.next_steps import NextStep, WhatNext, what_next
from wise_cellar.core.answer.result import Answer, Finding, PackAnswer, PunchAnswer, Series, Severity
from wise_cellar.core.answer.spread import Bands, Driver, Spread, spread
from wise_cellar.core.answer.wing import WingFigures, wing_figures

__all__ = [
    "AlarmCard",
    "AlarmValue",
    "Answer",
    "Asked",
    "Bands",
    "Doubts",
    "Driver",
    "EndReason",
    "Finding",
    "NextStep",
    "PackAnswer",
    "PolicyOutcome",
    "PunchAnswer",
    "Series",
    "Severity",
    "Spread",
    "WhatNext",
    "WingFigures",
    "alarm_card",
    "alarm_values",
    "answer",
    "as_known_flight",
    "as_text",
    "card_lines",
    "card_values",
    "explain",
    "measured_capacity_percent",
    "policies",
    "spread",
    "what_next",
    "wing_figures",
]
