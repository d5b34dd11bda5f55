"""The processes that share rendering work: their keys, the scheduler, and those that compute light."""

FINAL, PROOF = "FINAL", "PROOF"
"""Resources of rendering processes: those that work on finals, those that keep proofs ready."""
