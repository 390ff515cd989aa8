"""The computation, pure: no framework, no input or output, no clock, no chance."""
