"""Rows as they are shown: frozen values that leave a transaction in the place of the mapped rows, which never do.

Each has the columns of its table. What they mean stands with the tables, in `store`.
"""

from .agency import (
    ApiTokenView,
    AuditEntryView,
    ClientNameView,
    ClientView,
    MailboxView,
    PartRunView,
    TestPhoneView,
    UserView,
)
from .base import View
from .calls import CallRecordingView, CallView, ExportView, LiveCallView, VoiceMessageView
from .flows import CallFlowView, DraftEditView, FlowNameView, FlowVersionView, LiveFindingView
from .hours import ExceptionListView, HoursSetView, HoursSwitchView
from .numbers import (
    LeadSourceView,
    NumberDocumentView,
    NumberOrderLineView,
    NumberOrderView,
    PortView,
    TrackingNumberView,
)
from .people import DutyView, PersonView, TeamView
from .prompts import PromptView, TakeView

__all__ = [
    "ApiTokenView",
    "AuditEntryView",
    "CallFlowView",
    "CallRecordingView",
    "CallView",
    "ClientNameView",
    "ClientView",
    "DraftEditView",
    "DutyView",
    "ExceptionListView",
    "ExportView",
    "FlowNameView",
    "FlowVersionView",
    "HoursSetView",
    "HoursSwitchView",
    "LeadSourceView",
    "LiveCallView",
    "LiveFindingView",
    "MailboxView",
    "NumberDocumentView",
    "NumberOrderLineView",
    "NumberOrderView",
    "PartRunView",
    "PersonView",
    "PortView",
    "PromptView",
    "TakeView",
    "TeamView",
    "TestPhoneView",
    "TrackingNumberView",
    "UserView",
    "View",
    "VoiceMessageView",
]
