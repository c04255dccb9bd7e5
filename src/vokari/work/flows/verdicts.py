"""What comes of the rehearsals that are kept with a document of a flow."""

from sqlalchemy.orm import Session

from ...core.checks.finding import Finding
from ...core.flows.model.document import FlowDocument
from ...core.flows.running.flow import Flow
from ...core.rehearsals import holding
from ...core.rehearsals.calls import Setting
from ...store.agency import Client
from ..house.house import House
from ..places.ready import whereabouts
from ..proof.worlds import setting
from .naming import names_of
from .within import inner_live, other_flows


def setting_of(session: Session, house: House, client: Client, flow_id: int) -> Setting:
    """What the rehearsals of a flow run in, within a transaction."""
    return setting(
        session, house, client, flow_id, names_of(session, house, client), whereabouts(session, house, client.id)
    )


def found(session: Session, house: House, client: Client, flow_id: int, document: FlowDocument) -> list[Finding]:
    """What the rehearsals of a document find, within a transaction."""
    if not document.rehearsals:
        return []
    inner = inner_live(document, other_flows(session, house, client.id))
    return holding.findings(holding.verdicts(Flow(document, inner), setting_of(session, house, client, flow_id)))
