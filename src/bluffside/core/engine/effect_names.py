"""What each effect is called in reports and scenarios."""

from collections.abc import Mapping

from bluffside.core.engine import effects as do
from bluffside.core.engine.booking_effects import BookAppointment, FetchPerson

DOES: Mapping[type[do.Effect], str] = {
    do.SendMessage: "send",
    do.MakeTask: "task",
    do.Notify: "notify",
    do.CallOff: "call_off",
    do.AddTag: "tag",
    do.RemoveTag: "untag",
    do.AddNote: "note",
    do.SetField: "field",
    do.SetList: "list",
    do.AddPoints: "points",
    do.SetOwner: "owner",
    do.CreateDeal: "deal",
    do.MoveDeal: "move_deal",
    do.SetConsent: "consent",
    do.SetChannelOrder: "channel_order",
    do.ChangeAppointment: "appointment",
    do.CallWebhook: "webhook",
    do.AskService: "ask_service",
    do.ChangeSeries: "outside_series",
    do.HandOver: "hand_over",
    do.StopOthers: "stop_others",
    BookAppointment: "book",
    FetchPerson: "fetch_person",
}
