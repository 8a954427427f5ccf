"""Appointments that are booked: types, what is free, the page that anybody books on."""
