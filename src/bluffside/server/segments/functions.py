"""What the database must know to compare words and fields as the core does, as functions made from Python's own tables.

core.channels.keywords.plain folds case and keeps letters, digits and underscores, as Python's version of Unicode has
them. PostgreSQL's lower() and \\w follow other tables, so these functions are written out from `str.casefold` and
`str.isalnum`: what the core calls equal, the database does, too, letter for letter. Text in ASCII, which is most of it,
takes a short way.
"""

from collections.abc import Iterator
from functools import cache
from sys import maxunicode

from bluffside.core.conditions.base import NUMBER

LATIN = 0xFF


def _letters() -> Iterator[str]:
    """Every character beyond ASCII that text can hold."""
    return (chr(code) for code in range(0x80, maxunicode + 1) if not 0xD800 <= code <= 0xDFFF)


def _words_class(last: int) -> str:
    """The characters that words are made of, up to a code point, as ranges of a bracket expression."""
    ranges: list[tuple[int, int]] = []
    for letter in _letters():
        code = ord(letter)
        if code > last or not letter.isalnum():
            continue
        if ranges and ranges[-1][1] == code - 1:
            ranges[-1] = (ranges[-1][0], code)
        else:
            ranges.append((code, code))
    return "a-z0-9_" + "".join(chr(a) if a == b else f"{chr(a)}-{chr(b)}" for a, b in ranges)


def _folded(text: str, last: int) -> str:
    """An SQL expression for `text` with case folded: first letter for letter, then those that become several."""
    single = {one: one.casefold() for one in _letters() if ord(one) <= last and one.casefold() != one}
    many = {one: into for one, into in single.items() if len(into) > 1}
    ones = {one: into for one, into in single.items() if len(into) == 1}
    said = f"translate(lower({text} COLLATE \"C\"), '{''.join(ones)}', '{''.join(ones.values())}')"
    several = said
    for one, into in many.items():
        several = f"replace({several}, '{one}', '{into}')"
    return f"CASE WHEN {text} ~ '[{''.join(many)}]' THEN {several} ELSE {said} END"


@cache
def functions() -> str:
    latin = f"{chr(1)}-{chr(LATIN)}"
    return f"""
CREATE OR REPLACE FUNCTION bluffside_fold(t text) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT CASE WHEN octet_length(t) = length(t) THEN lower(t COLLATE "C")
                WHEN t ~ '^[{latin}]*$' THEN {_folded("t", LATIN)}
                ELSE {_folded("t", maxunicode)} END
$$;

CREATE OR REPLACE FUNCTION bluffside_plain(t text) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT btrim(CASE WHEN octet_length(t) = length(t) THEN regexp_replace(lower(t COLLATE "C"), '[^a-z0-9_]+', ' ', 'g')
        ELSE regexp_replace(bluffside_fold(t), '[^{_words_class(maxunicode)}]+', ' ', 'g') END)
$$;

-- `wanted` is plain. Its first word is looked for first, which settles most.
CREATE OR REPLACE FUNCTION bluffside_text_is(t text, wanted text) RETURNS boolean
LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT CASE WHEN octet_length(t) = length(t) AND strpos(lower(t COLLATE "C"), split_part(wanted, ' ', 1)) = 0 THEN false
                ELSE bluffside_plain(t) = wanted END
$$;

-- Whether text, or JSON as text, may be or hold some words of which `word` is the first: settles most at little cost.
CREATE OR REPLACE FUNCTION bluffside_may_be(t text, word text) RETURNS boolean
LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT coalesce(strpos(lower(t COLLATE "C"), word) > 0 OR octet_length(t) <> length(t), false)
$$;

CREATE OR REPLACE FUNCTION bluffside_any_is(v jsonb, wanted text) RETURNS boolean
LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT EXISTS (SELECT FROM jsonb_array_elements_text(v) AS e (one) WHERE bluffside_plain(e.one) = wanted)
$$;

CREATE OR REPLACE FUNCTION bluffside_any_contains(v jsonb, wanted text) RETURNS boolean
LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT EXISTS (SELECT FROM jsonb_array_elements_text(v) AS e (one) WHERE strpos(bluffside_fold(e.one), wanted) > 0)
$$;

CREATE OR REPLACE FUNCTION bluffside_yes_no(v jsonb) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT CASE WHEN v = 'true'::jsonb THEN 'yes' ELSE 'no' END
$$;

CREATE OR REPLACE FUNCTION bluffside_is(v jsonb, wanted text, n numeric) RETURNS boolean
LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT CASE jsonb_typeof(v)
        WHEN 'string' THEN bluffside_text_is(v #>> '{{}}', wanted)
        WHEN 'number' THEN coalesce(v::numeric = n, false)
        WHEN 'boolean' THEN bluffside_yes_no(v) = wanted
        WHEN 'array' THEN bluffside_any_is(v, wanted)
        ELSE wanted = '' END
$$;

CREATE OR REPLACE FUNCTION bluffside_contains(v jsonb, wanted text) RETURNS boolean
LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT CASE jsonb_typeof(v)
        WHEN 'string' THEN strpos(bluffside_fold(v #>> '{{}}'), wanted) > 0
        WHEN 'number' THEN strpos(v #>> '{{}}', wanted) > 0
        WHEN 'boolean' THEN strpos(bluffside_yes_no(v), wanted) > 0
        WHEN 'array' THEN bluffside_any_contains(v, wanted)
        ELSE false END
$$;

CREATE OR REPLACE FUNCTION bluffside_known(v jsonb) RETURNS boolean LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT coalesce(v NOT IN ('null'::jsonb, '""'::jsonb, '[]'::jsonb), false)
$$;

-- A number as people write it; null when it is none.
CREATE OR REPLACE FUNCTION bluffside_number(t text) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT CASE WHEN btrim(t, E' \\t\\r\\n') ~ '^{NUMBER}$' THEN btrim(t, E' \\t\\r\\n')::numeric END
$$;

CREATE OR REPLACE FUNCTION bluffside_number_in(v jsonb) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT CASE jsonb_typeof(v) WHEN 'number' THEN v::numeric WHEN 'string' THEN bluffside_number(v #>> '{{}}') END
$$;

-- A day that the calendar has, as it is written, since such days sort as text; null when it is none.
CREATE OR REPLACE FUNCTION bluffside_day(t text) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT CASE WHEN t !~ '^[0-9]{{4}}-(0[1-9]|1[0-2])-(0[1-9]|[12][0-9]|3[01])$' OR t < '0001' THEN NULL
                WHEN substr(t, 9)::int <= CASE substr(t, 6, 2)
                     WHEN '02' THEN 28 + CASE WHEN left(t, 4)::int % 4 = 0
                          AND (left(t, 4)::int % 100 <> 0 OR left(t, 4)::int % 400 = 0) THEN 1 ELSE 0 END
                     WHEN '04' THEN 30 WHEN '06' THEN 30 WHEN '09' THEN 30 WHEN '11' THEN 30 ELSE 31 END
                THEN t COLLATE "C" END
$$;

CREATE OR REPLACE FUNCTION bluffside_day_in(v jsonb) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT CASE jsonb_typeof(v) WHEN 'string' THEN bluffside_day(v #>> '{{}}') END
$$;

-- What a score is worth is written out where it is asked for (pieces.score_at).
DROP FUNCTION IF EXISTS bluffside_score(jsonb, timestamptz);

-- A wall-clock time in a zone as an instant (RFC 5545, 3.3.5): what occurs twice is its first occurrence, what a clock
-- change skips is read with the offset before it.
CREATE OR REPLACE FUNCTION bluffside_instant(wall timestamp, zone text) RETURNS timestamptz
LANGUAGE sql STABLE PARALLEL SAFE AS $$
    SELECT CASE WHEN (x.early AT TIME ZONE zone) = wall OR (x.late AT TIME ZONE zone) <> wall THEN x.early ELSE x.late END
      FROM (SELECT (wall - ((b.at AT TIME ZONE zone) - (b.at AT TIME ZONE 'UTC'))) AT TIME ZONE 'UTC' AS early,
                   (wall - ((a.at AT TIME ZONE zone) - (a.at AT TIME ZONE 'UTC'))) AT TIME ZONE 'UTC' AS late
              FROM (SELECT (wall - interval '1 day') AT TIME ZONE 'UTC' AS at) AS b,
                   (SELECT (wall + interval '1 day') AT TIME ZONE 'UTC' AS at) AS a) AS x
$$;

-- An instant so many months and days, on the wall clock of a zone, after another.
CREATE OR REPLACE FUNCTION bluffside_after(at timestamptz, zone text, months int, days int) RETURNS timestamptz
LANGUAGE sql STABLE PARALLEL SAFE AS $$
    SELECT bluffside_instant((at AT TIME ZONE zone) + make_interval(months => months, days => days), zone)
$$;
"""  # noqa: S608  # no words but ours
