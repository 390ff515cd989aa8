"""Addresses."""

from django.http import HttpRequest, HttpResponse
from django.urls import include, path, re_path
from drf_spectacular.views import SpectacularJSONAPIView, SpectacularSwaggerSplitView

from inkwell_bridge.service import console
from inkwell_bridge.service.bank import api as bank
from inkwell_bridge.service.bridges import api as bridges
from inkwell_bridge.service.bridges import rulebook_edits_api as rulebook_edits
from inkwell_bridge.service.bridges import rulebooks_api as rulebooks
from inkwell_bridge.service.bridges import timetables_api as timetables
from inkwell_bridge.service.carriage import crossings_api as crossings
from inkwell_bridge.service.carriage import documents_api as documents
from inkwell_bridge.service.carriage import erasing_api as erasing
from inkwell_bridge.service.carriage import log_api as logs
from inkwell_bridge.service.carriage import opening_api as opening
from inkwell_bridge.service.carriage import pausing_api as pausing
from inkwell_bridge.service.carriage import removal_api as removal
from inkwell_bridge.service.carriage import runs_api as runs
from inkwell_bridge.service.carriage import setup_api as setup
from inkwell_bridge.service.carriage import trials_api as trials
from inkwell_bridge.service.clearing import api as clearing
from inkwell_bridge.service.closing import api as closing
from inkwell_bridge.service.completeness import api as completeness
from inkwell_bridge.service.configurations import api as configurations
from inkwell_bridge.service.connections import connections_api as connections
from inkwell_bridge.service.connections import signing_in_api as signing_in
from inkwell_bridge.service.exchange_rates import api as exchange_rates
from inkwell_bridge.service.holds import api as holds
from inkwell_bridge.service.holds import one_document_api as held_document
from inkwell_bridge.service.incoming import api as incoming
from inkwell_bridge.service.incoming import receiving
from inkwell_bridge.service.links import changes_api, links_api, questions_api
from inkwell_bridge.service.links import switching_api as switching
from inkwell_bridge.service.links import tables_api as link_tables
from inkwell_bridge.service.notices import api as notices
from inkwell_bridge.service.notices import stopping
from inkwell_bridge.service.people import (
    browsers_api,
    invitations_api,
    members_api,
    openid_api,
    passwords_api,
    second_factor_api,
    sessions_api,
    tokens_api,
    workspaces_api,
)
from inkwell_bridge.service.proposals import api as proposals
from inkwell_bridge.service.reference import api as reference
from inkwell_bridge.service.rehearsals import api as rehearsals
from inkwell_bridge.service.rehearsals import changes_api as rehearsal_changes
from inkwell_bridge.service.rehearsals import coverage_api as coverage
from inkwell_bridge.service.rehearsals import exporting_api as exporting
from inkwell_bridge.service.requests import api as requests
from inkwell_bridge.service.requests import page as payment_page
from inkwell_bridge.service.tieout import api as tieout


def alive(request: HttpRequest) -> HttpResponse:
    """Whether the service answers."""
    return HttpResponse("ok", content_type="text/plain")


in_workspace = [
    path("companies", workspaces_api.CompaniesView.as_view()),
    path("companies/<slug:company>", workspaces_api.CompanyView.as_view()),
    path("companies/<slug:company>/exchange-rates", exchange_rates.DailyRatesView.as_view()),
    path("companies/<slug:company>/exchange-rates/file", exchange_rates.RateFileView.as_view()),
    path("companies/<slug:company>/exchange-rates/<str:currency>/<str:day>", exchange_rates.DailyRateView.as_view()),
    path("bank-accounts", bank.AccountsView.as_view()),
    path("bank-accounts/<slug:account>", bank.AccountView.as_view()),
    path("bank-accounts/<slug:account>/statements", bank.StatementsView.as_view()),
    path("bank-accounts/<slug:account>/lines", bank.LinesView.as_view()),
    path("bank-accounts/<slug:account>/lines/<int:line>/match", bank.LineMatchView.as_view()),
    path("bank-accounts/<slug:account>/unmatched", bank.UnmatchedView.as_view()),
    path("bank-accounts/<slug:account>/matches", bank.MatchesView.as_view()),
    path("clearing/accounts", clearing.MoneyAccountsView.as_view()),
    path("clearing/proofs", clearing.ProofsView.as_view()),
    path("clearing/proofs/<int:number>", clearing.ProofView.as_view()),
    path("clearing/proofs/<int:number>/cancel", clearing.CancelProofView.as_view()),
    path("completeness", completeness.CompletenessView.as_view()),
    path("completeness/checks", completeness.ChecksView.as_view()),
    path("completeness/checks/<int:number>", completeness.CheckView.as_view()),
    path("completeness/checks/<int:number>/cancel", completeness.CancelCheckView.as_view()),
    path("completeness/lacking", completeness.LackingView.as_view()),
    path("requests", requests.RequestsView.as_view()),
    path("requests/<int:number>", requests.RequestView.as_view()),
    path("requests/<int:number>/cancel", requests.CancelRequestView.as_view()),
    path("people", members_api.PeopleView.as_view()),
    path("people/invitations", invitations_api.InvitationsView.as_view()),
    path("people/invitations/<int:number>", invitations_api.InvitationView.as_view()),
    path("people/<int:number>", members_api.PersonView.as_view()),
    path("trail", members_api.TrailView.as_view()),
    path("connections", connections.ConnectionsView.as_view()),
    path("connections/<slug:connection>", removal.RemovableConnectionView.as_view()),
    path("connections/<slug:connection>/check", connections.CheckView.as_view()),
    path("connections/<slug:connection>/sign-in", signing_in.SignInView.as_view()),
    path("connections/<slug:connection>/sign-in/finish", signing_in.FinishView.as_view()),
    path("connections/<slug:connection>/reference", reference.ReferenceView.as_view()),
    path("connections/<slug:connection>/loadings", reference.LoadingsView.as_view()),
    path("connections/<slug:connection>/switch", switching.SwitchView.as_view()),
    path("connections/<slug:connection>/switch-back", switching.SwitchBackView.as_view()),
    path("connections/<slug:connection>/names", reference.NameKindsView.as_view()),
    path("connections/<slug:connection>/names/<slug:kind>", reference.NamesView.as_view()),
    path("bridges", bridges.BridgesView.as_view()),
    path("bridges/<slug:bridge>", removal.RemovableBridgeView.as_view()),
    path("bridges/<slug:bridge>/lanes/<str:kind>", bridges.LaneView.as_view()),
    path("base-rulebooks", rulebooks.BasesView.as_view()),
    path("base-rulebooks/<str:name>", rulebooks.BaseView.as_view()),
    path("base-rulebooks/<str:name>/edit", rulebook_edits.EditBaseView.as_view()),
    path("bridges/<slug:bridge>/rulebooks", rulebooks.RulebooksView.as_view()),
    path("bridges/<slug:bridge>/rulebooks/starter", rulebooks.StarterView.as_view()),
    path("bridges/<slug:bridge>/rulebooks/edit", rulebook_edits.EditView.as_view()),
    path("bridges/<slug:bridge>/trials", trials.TrialsView.as_view()),
    path("bridges/<slug:bridge>/rehearsals", rehearsals.RehearsalsView.as_view()),
    path("bridges/<slug:bridge>/proposals", proposals.ProposalsView.as_view()),
    path("bridges/<slug:bridge>/source-documents", exporting.SourceDocumentsView.as_view()),
    path("bridges/<slug:bridge>/rulebooks/<int:number>", rulebooks.RulebookView.as_view()),
    path("bridges/<slug:bridge>/rulebooks/<int:number>/changes", rulebooks.ChangesView.as_view()),
    path("bridges/<slug:bridge>/rulebooks/<int:number>/publish", rulebooks.PublishView.as_view()),
    path("bridges/<slug:bridge>/rulebooks/<int:number>/take-up-again", rulebooks.TakeUpAgainView.as_view()),
    path("bridges/<slug:bridge>/timetable", timetables.TimetableView.as_view()),
    path("bridges/<slug:bridge>/pause", pausing.PauseBridgeView.as_view()),
    path("connections/<slug:connection>/call-address", incoming.CallAddressView.as_view()),
    path("connections/<slug:connection>/call-address/secrets", incoming.CallSecretsView.as_view()),
    path("connections/<slug:connection>/call-address/secrets/<int:secret>", incoming.CallSecretView.as_view()),
    path("connections/<slug:connection>/call-address/registration", incoming.RegistrationView.as_view()),
    path("connections/<slug:connection>/incoming-calls", incoming.IncomingCallsView.as_view()),
    path("connections/<slug:connection>/pause", pausing.PauseConnectionView.as_view()),
    path("holds", holds.HoldsView.as_view()),
    path("holds/preview", holds.PreviewView.as_view()),
    path("holds/release", holds.LetGoView.as_view()),
    path("holds/followed", holds.FollowedView.as_view()),
    path("crossings/<int:crossing>/log", logs.LogView.as_view()),
    path("crossings/<int:crossing>/log/lines", logs.LogLinesView.as_view()),
    path("crossings/<int:crossing>/contact", held_document.ContactView.as_view()),
    path("crossings/<int:crossing>/decision", held_document.DecisionView.as_view()),
    path("troubles", notices.TroublesView.as_view()),
    path("troubles/read", notices.TroublesReadView.as_view()),
    path("troubles/past", notices.PastTroublesView.as_view()),
    path("notice-rules", notices.NoticeRulesView.as_view()),
    path("notice-rules/<int:rule>", notices.NoticeRuleView.as_view()),
    path("notice-rules/<int:rule>/test", notices.TestNoticeView.as_view()),
    path("notice-rules/<int:rule>/secret", notices.NoticeSecretView.as_view()),
    path("notices", notices.NoticesView.as_view()),
    path("runs/<int:run>/again", runs.RunAgainView.as_view()),
    path("bridges/<slug:bridge>/timetable/try", timetables.TryTimetableView.as_view()),
    path("bridges/<slug:bridge>/lanes/<str:kind>/timetable", timetables.LaneTimetableView.as_view()),
    path("bridges/<slug:bridge>/links/<slug:kind>", links_api.LinksView.as_view()),
    path("bridges/<slug:bridge>/links/<slug:kind>/counts", links_api.LinkCountsView.as_view()),
    path("bridges/<slug:bridge>/links/<slug:kind>/questions", questions_api.QuestionsView.as_view()),
    path("bridges/<slug:bridge>/links/<slug:kind>/answers", changes_api.AnswersView.as_view()),
    path("bridges/<slug:bridge>/links/<slug:kind>/undo", changes_api.UndoView.as_view()),
    path("bridges/<slug:bridge>/links/<slug:kind>/changes", changes_api.ChangesView.as_view()),
    path("bridges/<slug:bridge>/links/<slug:kind>/match", changes_api.MatchView.as_view()),
    path("bridges/<slug:bridge>/links/<slug:kind>/table", link_tables.TableView.as_view()),
    path("bridges/<slug:bridge>/links/<slug:kind>/import", link_tables.ImportView.as_view()),
    path("bridges/<slug:bridge>/links/<slug:kind>/create", setup.CreateView.as_view()),
    path("bridges/<slug:bridge>/setup", setup.ChecklistView.as_view()),
    path("bridges/<slug:bridge>/configuration", configurations.ConfigurationView.as_view()),
    path("bridges/<slug:bridge>/configuration/compare", configurations.CompareConfigurationView.as_view()),
    path("bridges/<slug:bridge>/configuration/apply", configurations.ApplyConfigurationView.as_view()),
    path("bridges/<slug:bridge>/opening", opening.OpeningView.as_view()),
    path("bridges/<slug:bridge>/try", setup.TryView.as_view()),
    path("bridges/<slug:bridge>/adopt", setup.AdoptRunView.as_view()),
    path("bridges/<slug:bridge>/runs", runs.StartRunView.as_view()),
    path("runs", runs.RunsView.as_view()),
    path("runs/<int:run>", runs.RunView.as_view()),
    path("runs/<int:run>/stop", runs.StopView.as_view()),
    path("crossings", crossings.CrossingsView.as_view()),
    path("crossings/release", crossings.ReleaseView.as_view()),
    path("crossings/<int:crossing>", crossings.CrossingView.as_view()),
    path("crossings/<int:crossing>/adopt", setup.AdoptView.as_view()),
    path("crossings/<int:crossing>/take-back", trials.TakeBackView.as_view()),
    path("crossings/<int:crossing>/carry-for-good", trials.CarryForGoodView.as_view()),
    path("proposals/<int:number>", proposals.ProposalView.as_view()),
    path("proposals/<int:number>/cancel", proposals.CancelProposalView.as_view()),
    path("proposals/<int:number>/examples", proposals.ExamplesView.as_view()),
    path("rehearsals/<int:number>", rehearsals.RehearsalView.as_view()),
    path("rehearsals/<int:number>/cancel", rehearsals.CancelRehearsalView.as_view()),
    path("rehearsals/<int:number>/changes", rehearsal_changes.ChangedPlansView.as_view()),
    path("rehearsals/<int:number>/changes/<int:crossing>", rehearsal_changes.BothPlansView.as_view()),
    path("rehearsals/<int:number>/coverage", coverage.CoverageView.as_view()),
    path("rehearsals/<int:number>/coverage/table", coverage.CoverageTableView.as_view()),
    path("erasures", erasing.ErasuresView.as_view()),
    path("erasures/<int:number>", erasing.ErasureView.as_view()),
    path("documents", documents.DocumentsView.as_view()),
    path("documents/read-again", documents.ReadAgainView.as_view()),
    path("documents/<int:document>", documents.DocumentView.as_view()),
    path("months/<slug:company>/<str:month>", closing.MonthView.as_view()),
    path("months/<slug:company>/<str:month>/acceptances", closing.AcceptancesView.as_view()),
    path("months/<slug:company>/<str:month>/acceptances/<int:number>", closing.AcceptanceView.as_view()),
    path("months/<slug:company>/<str:month>/proposal", closing.ProposalView.as_view()),
    path("months/<slug:company>/<str:month>/close", closing.CloseView.as_view()),
    path("months/<slug:company>/<str:month>/reopen", closing.ReopenView.as_view()),
    path("months/<slug:company>/<str:month>/changes", closing.ChangesView.as_view()),
    path("months/<slug:company>/<str:month>/report", closing.ReportView.as_view()),
    path("closings", closing.ClosingsView.as_view()),
    path("closings/<int:number>/report", closing.ClosingReportView.as_view()),
    path("companies/<slug:company>/closings/verify", closing.ChainView.as_view()),
    path("tie-out", tieout.TieOutView.as_view()),
    path("tie-out/days", tieout.TieOutDaysView.as_view()),
    path("tie-out/bridges", tieout.TieOutBridgesView.as_view()),
    path("tie-out/documents", tieout.TieOutDocumentsView.as_view()),
    path("tie-out/payouts", tieout.TieOutPayoutsView.as_view()),
    path("today", tieout.TodayView.as_view()),
]
api = [
    path("session", sessions_api.SessionView.as_view()),
    path("session/openid", openid_api.BeginView.as_view()),
    path("session/openid/back", openid_api.BackView.as_view()),
    path("sessions", browsers_api.BrowserSessionsView.as_view()),
    path("sessions/<int:number>", browsers_api.BrowserSessionView.as_view()),
    path("password", passwords_api.PasswordView.as_view()),
    path("password/reset", passwords_api.ResetView.as_view()),
    path("password/choose", passwords_api.ChooseView.as_view()),
    path("second-factor", second_factor_api.SecondFactorView.as_view()),
    path("second-factor/confirm", second_factor_api.ConfirmView.as_view()),
    path("second-factor/turn-off", second_factor_api.TurnOffView.as_view()),
    path("second-factor/recovery-codes", second_factor_api.RecoveryCodesView.as_view()),
    path("invitations", invitations_api.InvitedToView.as_view()),
    path("invitations/accept", invitations_api.AcceptView.as_view()),
    path("tokens", tokens_api.TokensView.as_view()),
    path("tokens/<int:pk>", tokens_api.TokenView.as_view()),
    path("kinds", connections.KindsView.as_view()),
    path("workspaces", workspaces_api.WorkspacesView.as_view()),
    path("workspaces/<slug:workspace>", workspaces_api.WorkspaceView.as_view()),
    path("workspaces/<slug:workspace>/", include(in_workspace)),
    path(
        "openapi.json", SpectacularJSONAPIView.as_view(permission_classes=[], authentication_classes=[]), name="openapi"
    ),
    path(
        "reference",
        SpectacularSwaggerSplitView.as_view(url_name="openapi", permission_classes=[], authentication_classes=[]),
        name="reference",
    ),
]
urlpatterns = [
    path("alive", alive),
    path("api/v1/", include(api)),
    path("incoming/<str:key>", receiving.receive),
    path("pay/page.css", payment_page.style),
    path("pay/<path:token>", payment_page.pay),
    path("notices/stop/<str:token>", stopping.stop),
    re_path(r"^(?!api/|incoming/|static/|assets/).*$", console.page),
]
handler400 = "inkwell_bridge.service.api.problem.bad_request"
handler404 = "inkwell_bridge.service.api.problem.not_found"
handler500 = "inkwell_bridge.service.api.problem.server_error"
