"""The words of a report in each of its languages, and how amounts and days are written there."""

from __future__ import annotations

from datetime import date, datetime
from decimal import Decimal
from zoneinfo import ZoneInfo

from babel import Locale
from babel.dates import format_date, format_datetime
from babel.numbers import format_decimal

from inkwell_bridge.core.cause_words import CAUSE_WORDS
from inkwell_bridge.core.commerce import Tender
from inkwell_bridge.core.errors import NotExact
from inkwell_bridge.core.findings import Cause
from inkwell_bridge.core.money import digits
from inkwell_bridge.core.proof import Reason

_LOCALES = {"en": "en_GB", "de": "de_DE", "fr": "fr_FR"}
_COLUMN = {"en": 0, "de": 1, "fr": 2}

# English, German, French.
TEXTS: dict[str, tuple[str, str, str]] = {
    "title": ("Month-end report", "Monatsabschlussbericht", "Rapport de clôture mensuelle"),
    "for": ("{company}, {month}", "{company}, {month}", "{company}, {month}"),
    "client": ("Client", "Mandant", "Client"),
    "company": ("Company", "Gesellschaft", "Société"),
    "period": ("Period", "Zeitraum", "Période"),
    "days": ("{first} to {last}", "{first} bis {last}", "du {first} au {last}"),
    "days_by": ("Days by the clocks of", "Tage nach der Uhr von", "Jours selon l’heure de"),
    "ties": (
        "The month ties: no difference is open and no document differs.",
        "Der Monat stimmt: keine Differenz ist offen, kein Beleg weicht ab.",
        "Le mois concorde : aucun écart n’est ouvert, aucun document ne diffère.",
    ),
    "accepted_ties": (
        "The month does not tie by itself; every open difference was accepted by a named person.",
        "Der Monat stimmt nicht von selbst; jede offene Differenz hat eine genannte Person anerkannt.",
        "Le mois ne concorde pas de lui-même ; chaque écart ouvert a été accepté par une personne nommée.",
    ),
    "does_not_tie": ("The month does not tie yet.", "Der Monat stimmt noch nicht.", "Le mois ne concorde pas encore."),
    "draft": (
        "Not closed: these figures may still change.",
        "Nicht abgeschlossen: diese Zahlen können sich noch ändern.",
        "Non clôturé : ces chiffres peuvent encore changer.",
    ),
    "closed": ("Closed by {by} on {at}", "Abgeschlossen von {by} am {at}", "Clôturé par {by} le {at}"),
    "proposed": ("Proposed by {by}", "Vorgeschlagen von {by}", "Proposé par {by}"),
    "closing_number": ("Closing number", "Abschluss Nummer", "Clôture numéro"),
    "checksum": ("Checksum (SHA-256)", "Prüfsumme (SHA-256)", "Somme de contrôle (SHA-256)"),
    "previous": (
        "Checksum of the closing before",
        "Prüfsumme des Abschlusses davor",
        "Somme de contrôle de la clôture précédente",
    ),
    "seal": ("Seal", "Siegel", "Sceau"),
    "note": ("Note", "Anmerkung", "Note"),
    "bridges": ("Bridges", "Brücken", "Ponts"),
    "bridge": ("Bridge", "Brücke", "Pont"),
    "sales_side": ("Sales side", "Verkaufsseite", "Côté ventes"),
    "books": ("The books", "Die Bücher", "La comptabilité"),
    "difference": ("Difference", "Differenz", "Écart"),
    "summary": ("Summary", "Zusammenfassung", "Synthèse"),
    "tie_out": ("Both sides", "Beide Seiten", "Les deux côtés"),
    "sales": ("Sales", "Verkäufe", "Ventes"),
    "refunds": ("Refunds", "Erstattungen", "Remboursements"),
    "both": ("Both together", "Beides zusammen", "Ensemble"),
    "count": ("Documents", "Belege", "Documents"),
    "net": ("Net", "Netto", "HT"),
    "tax": ("Tax", "Steuer", "Taxe"),
    "gross": ("Gross", "Brutto", "TTC"),
    "reasons": ("The difference by its reasons", "Die Differenz nach Gründen", "L’écart par motif"),
    "reason": ("Reason", "Grund", "Motif"),
    "settled": ("settled", "geklärt", "réglé"),
    "open": ("open", "offen", "ouvert"),
    "accepted": ("accepted", "anerkannt", "accepté"),
    "who": ("Accepted by", "Anerkannt von", "Accepté par"),
    "state": ("State", "Stand", "État"),
    "no_difference": ("Both sides are the same.", "Beide Seiten sind gleich.", "Les deux côtés sont identiques."),
    "nothing": (
        "Nothing stands on either side in this month.",
        "In diesem Monat steht auf keiner Seite etwas.",
        "Rien ne figure d’un côté ni de l’autre ce mois-ci.",
    ),
    "unexplained": ("Unexplained", "Ungeklärt", "Inexpliqué"),
    "tax_codes": ("By tax code", "Nach Steuerschlüssel", "Par code de taxe"),
    "tax_code": ("Tax code", "Steuerschlüssel", "Code de taxe"),
    "by_account": ("By account", "Nach Konto", "Par compte"),
    "tenders": ("Payments by tender", "Zahlungen nach Zahlungsart", "Paiements par moyen"),
    "tender": ("Tender", "Zahlungsart", "Moyen de paiement"),
    "by_bridge": ("By bridge", "Nach Brücke", "Par pont"),
    "by_day": ("By day", "Nach Tag", "Par jour"),
    "day": ("Day", "Tag", "Jour"),
    "section": ("Section", "Abschnitt", "Rubrique"),
    "currency": ("Currency", "Währung", "Devise"),
    "payouts": ("Payouts", "Auszahlungen", "Versements"),
    "payout": ("Payout", "Auszahlung", "Versement"),
    "charges": ("Charges", "Zahlungen", "Encaissements"),
    "fees": ("Fees", "Gebühren", "Frais"),
    "other": ("Other entries", "Übrige Posten", "Autres écritures"),
    "to_bank": ("To the bank", "An die Bank", "Vers la banque"),
    "total": ("Total", "Summe", "Total"),
    "accounts": ("Accounts of money", "Geldkonten", "Comptes de trésorerie"),
    "account": ("Account", "Konto", "Compte"),
    "purpose": ("For", "Wofür", "Usage"),
    "balance": ("Balance in the books", "Saldo in den Büchern", "Solde comptable"),
    "proved": ("Proved", "Nachgewiesen", "Prouvé"),
    "yes": ("yes", "ja", "oui"),
    "no": ("no", "nein", "non"),
    "not_proved": (
        "not proved at the end of the month",
        "zum Monatsende nicht nachgewiesen",
        "non prouvé à la fin du mois",
    ),
    "age_up_to": ("up to {days} days", "bis {days} Tage", "jusqu’à {days} jours"),
    "age_older": ("older than {days} days", "älter als {days} Tage", "plus de {days} jours"),
    "age": ("Age", "Alter", "Ancienneté"),
    "open_by_age": (
        "Documents not carried, by age",
        "Nicht übertragene Belege nach Alter",
        "Documents non transférés, par ancienneté",
    ),
    "all_carried": (
        "Every document up to the end of the month was carried.",
        "Jeder Beleg bis zum Monatsende wurde übertragen.",
        "Tous les documents jusqu’à la fin du mois ont été transférés.",
    ),
    "acceptances": (
        "Open items, and who accepted them",
        "Offene Punkte, und wer sie anerkannt hat",
        "Points ouverts, et qui les a acceptés",
    ),
    "accepted_by": ("{by}, {at}: {note}", "{by}, {at}: {note}", "{by}, {at} : {note}"),
    "documents": (
        "Documents behind the differences",
        "Belege hinter den Differenzen",
        "Documents à l’origine des écarts",
    ),
    "document": ("Document", "Beleg", "Document"),
    "left_out": (
        "{number} more are not listed here.",
        "{number} weitere sind hier nicht aufgeführt.",
        "{number} autres ne figurent pas ici.",
    ),
    "rule": ("the rulebook’s {at}", "{at} im Regelwerk", "{at} des règles"),
    "page": ("Page {page} of {pages}", "Seite {page} von {pages}", "Page {page} sur {pages}"),
    "adds_up": ("Adds up (zero where it does)", "Geht auf (null, wenn ja)", "Concordance (zéro si exacte)"),
    "amount": ("Amount", "Betrag", "Montant"),
}
# German, French; the English is the reason itself.
REASONS: dict[Reason, tuple[str, str]] = {
    Reason.LEFT_OUT: ("durch eine Regel ausgelassen", "écarté par une règle"),
    Reason.BEFORE_START: ("vor dem Beginn", "avant le début"),
    Reason.HELD: ("angehalten", "retenu"),
    Reason.WAITING: ("wartet", "en attente"),
    Reason.KEPT: ("wie gebucht belassen", "laissé tel que comptabilisé"),
    Reason.ACCEPTED: ("von einer Person anerkannt", "accepté par une personne"),
    Reason.ADOPTED: ("wie eingegeben übernommen", "repris tel que saisi"),
    Reason.CUT_OFF: ("in den Büchern an einem anderen Tag", "un autre jour dans la comptabilité"),
    Reason.CREDITED: (
        "mit einer Änderung der Bestellung gutgeschrieben",
        "crédité lors d’une modification de la commande",
    ),
    Reason.MOVED: ("aus einem gesperrten Zeitraum verschoben", "reporté d’une période verrouillée"),
    Reason.WITHHELD: ("vom Marktplatz einbehalten", "retenu par une place de marché"),
    Reason.VOUCHERS: ("Gutscheine, beim Verkauf versteuert", "bons taxés à la vente"),
    Reason.DEPOSITS: ("Steuer auf Anzahlungen, noch nicht fällig", "taxe sur acomptes, non encore exigible"),
    Reason.CANCELLED: ("nach der Buchung storniert", "annulé après comptabilisation"),
    Reason.CONVERTED: ("umgerechnet", "converti"),
    Reason.NOT_MONEY: ("kein Geldeingang", "sans mouvement d’argent"),
    Reason.TAX_LINES: ("Steuer auf eigenen Zeilen", "taxe sur des lignes distinctes"),
    Reason.PENNY: ("Rundung nach Regel", "arrondi selon la règle"),
    Reason.TAX_COMPUTED: ("Steuer von den Büchern anders berechnet", "taxe calculée autrement par la comptabilité"),
    Reason.OTHERWISE: ("anders gebucht als geplant", "comptabilisé autrement que prévu"),
    Reason.CHANGED: ("in den Büchern geändert", "modifié dans la comptabilité"),
    Reason.VOIDED: ("in den Büchern storniert", "annulé dans la comptabilité"),
    Reason.MISSING: ("fehlt in den Büchern", "absent de la comptabilité"),
    Reason.TWICE: ("doppelt in den Büchern", "en double dans la comptabilité"),
    Reason.OTHER_REFERENCE: ("in den Büchern unter anderer Referenz", "sous une autre référence dans la comptabilité"),
    Reason.GONE: ("auf der Verkaufsseite nicht mehr vorhanden", "disparu du côté des ventes"),
    Reason.BY_HAND: ("von Hand erfasst", "saisi à la main"),
    Reason.NOT_POSTED_HERE: (
        "unter unserer Referenz, nicht von hier gebucht",
        "sous notre référence, non comptabilisé d’ici",
    ),
    Reason.NOT_FETCHED: ("aufgeführt, aber nicht abgerufen", "listé, mais non récupéré"),
    Reason.NOT_LISTED: ("gezählt, aber nicht aufgeführt", "compté, mais non listé"),
    Reason.AT_PROVIDER: ("nur dem Zahlungsanbieter bekannt", "connu du seul prestataire de paiement"),
    Reason.MONEY_NOT_CARRIED: (
        "Auszahlungen oder Zahlungen noch nicht übertragen",
        "versements ou paiements pas encore transférés",
    ),
    Reason.ONLY_NUMBER: ("nur als Nummer bekannt", "connu par son seul numéro"),
    Reason.UNEXPLAINED: ("ungeklärt", "inexpliqué"),
}
CAUSES: dict[Cause, tuple[str, str]] = {
    Cause.SOURCE_INVALID: ("der Auftrag geht nicht auf", "la commande ne s’additionne pas"),
    Cause.CURRENCY_NOT_KEPT: ("die andere Seite führt die Währung nicht", "l’autre côté ne tient pas cette devise"),
    Cause.RATE_MISSING: ("kein Wechselkurs für den Tag", "aucun taux de change pour ce jour"),
    Cause.TAX_CLASS_UNMAPPED: ("eine Steuerklasse hat keinen Steuerschlüssel", "une classe de taxe n’a pas de code"),
    Cause.TAX_UNCLEAR: ("die Steuer lässt sich nicht aufteilen", "la taxe ne peut être répartie"),
    Cause.RULE_MISSING: ("keine Regel sagt, wohin ein Betrag gehört", "aucune règle ne dit où va un montant"),
    Cause.CUSTOMER_UNCLEAR: ("der Kunde ist unklar", "le client n’est pas clair"),
    Cause.ITEM_UNCLEAR: ("der Artikel ist unklar", "l’article n’est pas clair"),
    Cause.REFERENCE_MISSING: (
        "die Regeln nennen, was den Büchern fehlt",
        "les règles nomment ce que la comptabilité n’a pas",
    ),
    Cause.RULEBOOK_INVALID: ("das Regelwerk ist nicht brauchbar", "le jeu de règles est inutilisable"),
    Cause.CODE_RATE: (
        "ein Steuerschlüssel hat in den Büchern einen anderen Satz",
        "un code de taxe a un autre taux en comptabilité",
    ),
    Cause.PENNY: ("die Differenz übersteigt die Toleranz", "l’écart dépasse la tolérance"),
    Cause.BOOKS_REFUSED: ("die Bücher haben den Beleg abgelehnt", "la comptabilité a refusé le document"),
    Cause.SALES_REFUSED: ("die Verkaufsseite hat den Beleg abgelehnt", "le côté ventes a refusé le document"),
    Cause.PERIOD_LOCKED: ("die Bücher sind für das Datum gesperrt", "la comptabilité est verrouillée à cette date"),
    Cause.TYPED_IN: ("jemand hat ihn in die Bücher eingegeben", "quelqu’un l’a saisi dans la comptabilité"),
    Cause.OUTCOME_UNCLEAR: ("der Ausgang ist unklar", "l’issue n’est pas claire"),
    Cause.SOURCE_CHANGED: (
        "der Auftrag wurde nach der Buchung geändert",
        "la commande a changé après comptabilisation",
    ),
    Cause.BOOKS_EDITED: ("jemand hat ihn in den Büchern geändert", "quelqu’un l’a modifié dans la comptabilité"),
    Cause.ORDER_FIRST: ("sein Auftrag ist noch nicht übertragen", "sa commande n’est pas encore transférée"),
    Cause.INVOICE_FIRST: ("sein Auftrag ist noch nicht berechnet", "sa commande n’est pas encore facturée"),
    Cause.NOT_PROVED: ("die Bücher haben anderes als geplant", "la comptabilité contient autre chose que prévu"),
    Cause.CHANGED_THERE: ("jemand hat das Gebuchte geändert", "quelqu’un a modifié ce qui était comptabilisé"),
    Cause.VOIDED_THERE: ("es wurde in den Büchern storniert", "il a été annulé dans la comptabilité"),
    Cause.MISSING_THERE: ("es ist nicht mehr in den Büchern", "il n’est plus dans la comptabilité"),
    Cause.TWICE_THERE: ("es steht doppelt in den Büchern", "il figure deux fois dans la comptabilité"),
    Cause.REFERENCE_CHANGED: ("seine Referenz in den Büchern ist eine andere", "sa référence comptable est une autre"),
    Cause.UNFORESEEN: ("Inkwell Bridge selbst ist gescheitert", "Inkwell Bridge a lui-même échoué"),
}
# What the client's systems and we call things, where a report shows it; whatever is not here is somebody's own name.
TERMS: dict[str, tuple[str, str]] = {
    Tender.CARD: ("Karte", "carte"),
    Tender.BANK_TRANSFER: ("Überweisung", "virement"),
    Tender.DIRECT_DEBIT: ("Lastschrift", "prélèvement"),
    Tender.WALLET: ("Wallet", "portefeuille électronique"),
    Tender.CASH: ("bar", "espèces"),
    Tender.CASH_ON_DELIVERY: ("Nachnahme", "contre remboursement"),
    Tender.GIFT_CARD: ("Geschenkkarte", "carte cadeau"),
    Tender.VOUCHER: ("Gutschein", "bon"),
    Tender.ON_ACCOUNT: ("auf Rechnung", "sur compte"),
    Tender.PAY_LATER: ("Ratenkauf", "paiement différé"),
    Tender.MARKETPLACE: ("Marktplatz", "place de marché"),
    Tender.OTHER: ("sonstige", "autre"),
    "waiting": ("wartet", "en attente"),
    "held": ("angehalten", "retenu"),
    "differs": ("weicht ab", "diffère"),
    "carried": ("übertragen", "transféré"),
    "left out": ("ausgelassen", "écarté"),
    "adopted": ("übernommen", "repris"),
    "clearing": ("Verrechnung", "compensation"),
    "on its way to the bank": ("unterwegs zur Bank", "en route vers la banque"),
    "reserves": ("Einbehalte", "réserves"),
    "bank": ("Bank", "banque"),
    "money of buyers": ("Geld der Käufer", "argent des acheteurs"),
    "sales": ("Verkäufe", "ventes"),
    "shipping": ("Versand", "port"),
    "rounding": ("Rundung", "arrondi"),
    "discounts": ("Rabatte", "remises"),
    "goodwill": ("Kulanz", "gestes commerciaux"),
    "tips": ("Trinkgeld", "pourboires"),
    "donations": ("Spenden", "dons"),
    "duties": ("Zölle", "droits de douane"),
    "surcharges": ("Zuschläge", "suppléments"),
    "gift cards": ("Geschenkkarten", "cartes cadeaux"),
    "vouchers": ("Gutscheine", "bons"),
    "deposits": ("Anzahlungen", "acomptes"),
    "tax": ("Steuer", "taxe"),
    "exchange differences": ("Kursdifferenzen", "écarts de change"),
    "write offs": ("Ausbuchungen", "passages en perte"),
    "totals": ("Summen", "totaux"),
    "tax codes": ("Steuerschlüssel", "codes de taxe"),
    "accounts": ("Konten", "comptes"),
    "tenders": ("Zahlungsarten", "moyens de paiement"),
}


class Words:
    """A language with its formats."""

    def __init__(self, language: str) -> None:
        self.language = language
        self._column = _COLUMN[language]
        self._locale = Locale.parse(_LOCALES[language])

    def text(self, name: str, **values: object) -> str:
        """A text of the report."""
        return TEXTS[name][self._column].format(**values)

    def reason(self, reason: str, detail: str = "") -> str:
        """A reason with its detail: the cause of a hold, or the name of a rule, which is the client's own word."""
        said = Reason(reason)
        text = REASONS[said][self._column - 1] if self._column else said.value
        return f"{text}: {self._cause(detail)}" if detail else text

    def _cause(self, detail: str) -> str:
        if detail.startswith("/"):
            return self.text("rule", at=" › ".join(detail.strip("/").split("/")))
        if detail not in CAUSE_WORDS:
            return detail
        return CAUSES[Cause(detail)][self._column - 1] if self._column else CAUSE_WORDS[detail]

    def term(self, word: str) -> str:
        """What something is called."""
        return TERMS[word][self._column - 1] if self._column and word in TERMS else word

    def amount(self, amount: Decimal, currency: str) -> str:
        """With the digits of its currency, grouped as the language does."""
        pattern = "#,##0" + (f".{'0' * places}" if (places := digits_of(currency)) else "")
        # A narrow space that never breaks is in few fonts; the wider one is in all.
        return format_decimal(amount, format=pattern, locale=self._locale).replace("\u202f", "\u00a0")

    def number(self, number: int) -> str:
        """A whole number."""
        return format_decimal(number, format="#,##0", locale=self._locale).replace("\u202f", "\u00a0")

    def day(self, day: date) -> str:
        """A day in short."""
        return format_date(day, "dd.MM.yyyy" if self.language == "de" else "dd/MM/yyyy", locale=self._locale)

    def month(self, day: date) -> str:
        """The name of a day's month with its year."""
        return format_date(day, "LLLL yyyy", locale=self._locale)

    def moment(self, moment: datetime, zone: str) -> str:
        """A moment by the clocks of a time zone, to the minute."""
        form = "dd.MM.yyyy HH:mm" if self.language == "de" else "dd/MM/yyyy HH:mm"
        return format_datetime(moment.astimezone(ZoneInfo(zone)), form, locale=self._locale)


def digits_of(currency: str) -> int:
    """How many digits its amounts have after the point; two, where it is none of ISO 4217."""
    try:
        return digits(currency)
    except NotExact:
        return 2
