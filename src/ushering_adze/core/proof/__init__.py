"""The proof: one function for each rule, from a show to findings, each with its cure."""

from ushering_adze.core.proof.check import pixel_check
from ushering_adze.core.proof.finding import Cure, Finding, Severity, Where

__all__ = ["Cure", "Finding", "Severity", "Where", "pixel_check"]
