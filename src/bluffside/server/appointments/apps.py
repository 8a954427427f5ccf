from django.apps import AppConfig
from django.db.models.signals import post_delete


class AppointmentsConfig(AppConfig):
    name = "bluffside.server.appointments"
    label = "appointments"

    def ready(self) -> None:
        from bluffside.core.appointments.calendar_text import read_reply
        from bluffside.server.appointments import booking, calendars, offering, times, waiting
        from bluffside.server.appointments.asked_times import FreeTimes
        from bluffside.server.appointments.booked_in_talk import DiaryOfTypes
        from bluffside.server.appointments.keeping import BUSY, WAITED
        from bluffside.server.appointments.models import AppointmentType, Place
        from bluffside.server.capture.asking import ask_for
        from bluffside.server.diary.services import when_changed
        from bluffside.server.messaging.inbound import when_calendar_comes
        from bluffside.server.people.merging import before_merging
        from bluffside.server.people.queries import free_next_by
        from bluffside.server.practice.finding import by_name, find_by
        from bluffside.server.practice.keeping import keep
        from bluffside.server.practice.models import Account
        from bluffside.server.workflows.bookings import book_by
        from bluffside.server.workflows.names import add_names

        for sort in (WAITED, BUSY):
            keep(sort)
        post_delete.connect(booking.place_is_gone, sender=Place)
        before_merging(waiting.are_one)
        when_changed(booking.place_given_up)
        when_changed(calendars.send_entry)
        add_names(offering.names)
        free_next_by(times.next_free)
        book_by(DiaryOfTypes())
        ask_for("appointment", FreeTimes())
        find_by(by_name("appointment", AppointmentType, lambda one: "" if one.open else "closed"))

        def reads(account: Account, text: str, sender: str) -> bool:
            reply = read_reply(text)
            return reply is not None and calendars.take_reply(account, reply, sender)

        when_calendar_comes(reads)
