"""How a document is carried: a list of steps, each safe to repeat. A kind may put its own between them."""

from inkwell_bridge.service.carriage.steps.adopt import adopt_typed_in, keep_adopted
from inkwell_bridge.service.carriage.steps.conclude import conclude_carried
from inkwell_bridge.service.carriage.steps.contact import find_contact
from inkwell_bridge.service.carriage.steps.plan import hold_where_planned, plan_documents
from inkwell_bridge.service.carriage.steps.post import post_documents
from inkwell_bridge.service.carriage.steps.prove import prove_documents
from inkwell_bridge.service.carriage.steps.trial import as_drafts, take_back_trial
from inkwell_bridge.service.carriage.steps.write_back import write_back

# From a plan that may go to the end: the same for all kinds whose documents are posted.
FROM_CONTACT = (find_contact, post_documents, prove_documents, write_back, conclude_carried)
# What makes nobody out a document and writes nothing back.
WITHOUT_CONTACT = (plan_documents, hold_where_planned, post_documents, prove_documents, conclude_carried)
STEPS = (keep_adopted, plan_documents, hold_where_planned, *FROM_CONTACT)

__all__ = ["FROM_CONTACT", "STEPS", "WITHOUT_CONTACT", "adopt_typed_in", "as_drafts", "conclude_carried",
           "find_contact", "hold_where_planned", "keep_adopted", "plan_documents", "post_documents", "prove_documents",
           "take_back_trial", "write_back"]  # fmt: skip
