"""How a document is carried: a list of steps, each safe to repeat. A kind may put its own between them."""

from inkwell_bridge.service.carriage.steps.adopt import adopt_typed_in, keep_adopted
from inkwell_bridge.service.carriage.steps.contact import find_contact
from inkwell_bridge.service.carriage.steps.plan import hold_where_planned, plan_documents
from inkwell_bridge.service.carriage.steps.post import post_documents
from inkwell_bridge.service.carriage.steps.prove import prove_documents

STEPS = (keep_adopted, plan_documents, hold_where_planned, find_contact, post_documents, prove_documents)

__all__ = ["STEPS", "adopt_typed_in", "find_contact", "hold_where_planned", "keep_adopted", "plan_documents",
           "post_documents", "prove_documents"]  # fmt: skip
