"""Requests for payment: making and cancelling them by hand, and the page that their links lead to."""
