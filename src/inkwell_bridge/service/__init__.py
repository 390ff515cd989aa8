"""The service: Django and Django REST framework around the core, one room per folder."""
