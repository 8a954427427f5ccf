"""Who signs in, and how: passwords, second steps and sessions by django-allauth (headless), in our words and behind our locks."""
