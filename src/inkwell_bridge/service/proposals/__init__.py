"""Rules proposed from examples: past orders, and what somebody entered into the books for them."""
