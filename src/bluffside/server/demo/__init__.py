"""The demo: an invented practice with four accounts, made by running the real engine over made-up weeks."""
