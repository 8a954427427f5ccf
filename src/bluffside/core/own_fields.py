"""The fields that every contact has, beside those that an account makes for itself: one table, from which all lists of them come.

One more is a line here and a column of the contact's (server/people/models.py, with a migration), and a part of
`facts.Contact`.
"""

from collections.abc import Mapping
from typing import Literal, NamedTuple

Asked = Literal["text", "email", "phone", "long", ""]


class OwnField(NamedTuple):
    """label        in words, as it stands within a sentence
    longest      letters
    asked        by which sort of question of a form it is filled; empty: no form asks for it
    headings     of columns that it is guessed from, without blanks and signs; none: no file brings it
    autofill     what browsers know it by (HTML, autocomplete)
    shown        on the contact's own page, where they change it themselves
    set          by a line of a workflow
    """

    label: str
    longest: int
    asked: Asked = ""
    headings: tuple[str, ...] = ()
    autofill: str = ""
    shown: bool = False
    set: bool = False


OWN: Mapping[str, OwnField] = {
    "first_name": OwnField(
        "first name", 80, "text", ("firstname", "forename", "givenname", "first", "vorname", "prénom", "prenom", "nombre"),
        "given-name", shown=True, set=True,
    ),
    "last_name": OwnField(
        "last name", 80, "text", ("lastname", "surname", "familyname", "last", "nachname", "nom", "apellido", "apellidos"),
        "family-name", shown=True, set=True,
    ),
    "email": OwnField(
        "email", 254, "email", ("email", "emailaddress", "mail", "emailadresse", "primaryemail", "courriel", "correo"), "email",
        shown=True, set=True,
    ),
    "mobile": OwnField(
        "mobile number", 16, "phone",
        ("mobile", "mobilenumber", "phone", "phonenumber", "cell", "cellphone", "telephone", "tel", "number", "mobilephone",
         "handy", "telefon", "téléphone", "teléfono", "móvil"),
        "tel", shown=True, set=True,
    ),
    "zone": OwnField("time zone", 64, "", ("timezone", "zone", "tz"), set=True),
    "post": OwnField(
        "postal address", 300, "long", ("address", "postaladdress", "post", "street", "streetaddress", "mailingaddress"),
        "street-address", set=True,
    ),
    "push": OwnField("push device", 200),
    "social": OwnField("social handle", 120, "", ("social", "socialhandle", "handle")),
}  # fmt: skip
# What is known of a contact besides, that conditions can ask for.
FURTHER: Mapping[str, str] = {"owner": "responsible", "added": "day added"}
