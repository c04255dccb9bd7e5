"""Lead sources: what a number is given to, named by the open campaign tags."""

from collections.abc import Sequence
from dataclasses import asdict, dataclass

from sqlalchemy import func, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ...store.numbers import LeadSource
from ..agency.access import Actor, NotFound, allow, note
from ..house import meanwhile
from ..house.house import House
from ..house.kept import once
from ..house.keys import new_key
from ..house.problems import Problem, Problems, Row
from ..house.views import LeadSourceView

TAGS = ("source", "medium", "campaign", "term", "content", "placement")
FIELD_NAMES = {"name": "the name", "online": "whether it is online", **{tag: f"the {tag}" for tag in TAGS}}


@dataclass(frozen=True, slots=True)
class SourceForm:
    """What is typed of a lead source: its name and the open campaign tags, where people see it, online or not."""

    name: str
    source: str = ""
    medium: str = ""
    campaign: str = ""
    term: str = ""
    content: str = ""
    placement: str = ""
    online: bool = False


def sources_of(session: Session, client_id: int) -> list[LeadSourceView]:
    """A client's lead sources, by name."""

    def read() -> list[LeadSourceView]:
        query = select(*LeadSourceView.columns(LeadSource)).where(LeadSource.client_id == client_id)
        return LeadSourceView.all(session.execute(query.order_by(func.lower(LeadSource.name))))

    return once(session, ("sources", client_id), read)


def lead_sources(house: House, actor: Actor, client_id: int) -> list[LeadSourceView]:
    """A client's lead sources, by name, for whoever reads its results."""
    with house.begin() as session:
        allow(session, actor, client_id, "read_results")
        return sources_of(session, client_id)


def keep_source(
    house: House, actor: Actor, client_id: int, source_id: int | None, form: SourceForm, was: Row | None = None
) -> LeadSourceView | Problems:
    """Makes or changes a lead source; `was` are the fields that the form was made of."""
    try:
        with house.begin() as session:
            allow(session, actor, client_id, "work", changing=True)
            problems = check(form)
            if problems:
                return problems
            source = session.get(LeadSource, source_id) if source_id else None
            if source_id and (source is None or source.client_id != client_id):
                raise NotFound
            if source is None:
                source = add_source(session, actor, client_id, form)
            else:
                fields = meanwhile.laid(asdict(_plain(form)), was, asdict(form_of(source)), FIELD_NAMES)
                if isinstance(fields, list):
                    return fields
                _fill(source, SourceForm(**fields))
                session.flush()
            note(session, house, actor, client_id, f"kept the lead source {source.name}")
            return LeadSourceView.of(source)
    except IntegrityError:
        return [Problem("name", "Another lead source of this client has this name already.")]


def check(form: SourceForm) -> Problems:
    """What is wrong with what was typed of a source."""
    if not 1 <= len(" ".join(form.name.split())) <= 80:
        return [Problem("name", "A lead source has a name of 1 to 80 letters.")]
    return [Problem(one, "At most 120 letters.") for one in TAGS if len(getattr(form, one)) > 120]


def add_source(session: Session, actor: Actor, client_id: int, form: SourceForm) -> LeadSource:
    """A new source from a form that was checked. Raises IntegrityError where its name is taken."""
    return add_sources(session, actor, client_id, [form])[0]


def add_sources(session: Session, actor: Actor, client_id: int, forms: Sequence[SourceForm]) -> list[LeadSource]:
    """New sources from forms that were checked. Raises IntegrityError where a name is taken."""
    made = [LeadSource(agency_id=actor.agency_id, client_id=client_id, key=new_key("ls")) for _ in forms]
    for source, form in zip(made, forms, strict=True):
        _fill(source, form)
    session.add_all(made)
    session.flush()
    return made


def form_of(source: LeadSource | LeadSourceView) -> SourceForm:
    """The fields of a source as it stands."""
    return SourceForm(source.name, online=source.online, **{tag: getattr(source, tag) for tag in TAGS})


def _plain(form: SourceForm) -> SourceForm:
    """What was typed without needless spaces."""
    name = " ".join(form.name.split())
    return SourceForm(name, online=form.online, **{tag: getattr(form, tag).strip() for tag in TAGS})


def _fill(source: LeadSource, form: SourceForm) -> None:
    for field, value in asdict(_plain(form)).items():
        setattr(source, field, value)


def get_source(house: House, actor: Actor, client_id: int, source_id: int) -> LeadSourceView:
    """One lead source."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        source = session.get(LeadSource, source_id)
        if source is None or source.client_id != client_id:
            raise NotFound
        return LeadSourceView.of(source)


def own_source(session: Session, client_id: int, source_id: int | None) -> None:
    """Raises NotFound for a source that is not this client’s."""
    if source_id is not None:
        source = session.get(LeadSource, source_id)
        if source is None or source.client_id != client_id:
            raise NotFound
