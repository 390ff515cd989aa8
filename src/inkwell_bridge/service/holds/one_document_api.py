"""One document that is held: whose contact it is made out to, and what a person decides for it."""

from __future__ import annotations

from typing import Any

from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiResponse, extend_schema
from rest_framework import serializers, status
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.core.linking import LinkKind
from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.fields import Strict
from inkwell_bridge.service.api.problem import MEDIA_TYPE
from inkwell_bridge.service.carriage import decisions
from inkwell_bridge.service.carriage.crossings_api import CrossingSerializer
from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.carriage.states import DecisionKind
from inkwell_bridge.service.holds import contacts
from inkwell_bridge.service.holds.api import LetGoSerializer
from inkwell_bridge.service.links.between import Between
from inkwell_bridge.service.links.naming import entry_named
from inkwell_bridge.service.people.roles import Role

# A document that waits for something else.
_NO_CHOICE = {(409, MEDIA_TYPE): OpenApiResponse(OpenApiTypes.OBJECT, description="There is nothing to choose.")}


class OfferedContactSerializer(serializers.Serializer[Any]):
    """A contact that a buyer may be, with points of 100 and the reason for them."""

    id = serializers.CharField(source="entry.source_id")
    code = serializers.CharField(source="entry.code")
    name = serializers.CharField(source="entry.name")
    email = serializers.SerializerMethodField()
    postcode = serializers.SerializerMethodField()
    points = serializers.IntegerField(source="score.points")
    reason = serializers.CharField(source="score.reason")

    def get_email(self, one: contacts.Offered) -> str:
        """As the books have it."""
        return str(one.entry.details.get("email", ""))

    def get_postcode(self, one: contacts.Offered) -> str:
        """As the books have it."""
        return str(one.entry.details.get("postcode", ""))


class ContactChoiceSerializer(serializers.Serializer[Any]):
    """Whom a document is to be made out to, and the contacts that may be meant, the likeliest first."""

    number = serializers.CharField()
    name = serializers.CharField()
    company = serializers.CharField()
    email = serializers.CharField()
    tax_number = serializers.CharField()
    postcode = serializers.CharField()
    offered = OfferedContactSerializer(many=True)
    loaded = serializers.BooleanField(help_text="Whether the books' contacts were ever loaded.")


class ContactChosenSerializer(Strict):
    """Which contact a buyer is."""

    contact = serializers.CharField(max_length=120, help_text="Its id or code.")


class ContactView(InWorkspace):
    """The contact of one document that waits for it."""

    needs = {"PUT": Role.OPERATE}

    @extend_schema(operation_id="contact_choice", responses={200: ContactChoiceSerializer, **_NO_CHOICE})
    def get(self, request: Request, workspace: str, crossing: int) -> Response:
        """Who bought, and the contacts that may be meant, as last loaded."""
        found = _crossing(self, crossing)
        buyer = contacts.waiting_for_contact(found).buyer
        known = contacts.as_known(buyer)
        between = Between.of(found.bridge, LinkKind.CUSTOMERS)
        told = {
            "number": found.number,
            "name": buyer.name,
            "company": buyer.company,
            "email": buyer.email,
            "tax_number": buyer.tax_number,
            "postcode": known.postcode,
            "offered": contacts.offered(found, known),
            "loaded": between.kept().exists(),
        }
        return Response(ContactChoiceSerializer(told).data)

    @extend_schema(operation_id="contact_choose", request=ContactChosenSerializer, responses=LetGoSerializer)
    def put(self, request: Request, workspace: str, crossing: int) -> Response:
        """Let the buyer be that contact from now on, and let go all that waits for it."""
        given = ContactChosenSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        found = _crossing(self, crossing)
        waiting = contacts.waiting_for_contact(found)
        kept = Between.of(found.bridge, LinkKind.CUSTOMERS).kept()
        name = given.validated_data["contact"]
        contact = entry_named(kept, name, where=found.bridge.books.name, field="contact")
        chosen = contacts.choose(waiting, contact, self.person)
        return Response({"released": len(chosen), "crossings": chosen})


class DecisionRequestSerializer(Strict):
    """What is decided for one document, and why."""

    kind = serializers.ChoiceField(choices=DecisionKind.choices)
    note = serializers.CharField(max_length=decisions.LONGEST_NOTE)


class DecisionView(InWorkspace):
    """A person's decision for one document that is held."""

    needs = {"PUT": Role.OPERATE, "DELETE": Role.OPERATE}

    @extend_schema(operation_id="decisions_set", request=DecisionRequestSerializer, responses=CrossingSerializer)
    def put(self, request: Request, workspace: str, crossing: int) -> Response:
        """Leave it out, say that it was settled by hand, or accept its difference; with a reason, which is kept."""
        given = DecisionRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        kind, note = DecisionKind(given.validated_data["kind"]), given.validated_data["note"]
        decisions.decide(_crossing(self, crossing), self.person, kind, note)
        return Response(CrossingSerializer(_crossing(self, crossing)).data, status=status.HTTP_200_OK)

    @extend_schema(operation_id="decisions_take_back", responses=CrossingSerializer)
    def delete(self, request: Request, workspace: str, crossing: int) -> Response:
        """Forget what was decided, and have it planned anew."""
        decisions.take_back(_crossing(self, crossing), self.person)
        return Response(CrossingSerializer(_crossing(self, crossing)).data)


def _crossing(view: InWorkspace, number: int) -> Crossing:
    rows = view.own(Crossing.objects.select_related("bridge__company", "bridge__source", "bridge__books", "workspace"))
    found: Crossing = view.numbered(rows, "document", number)
    return found
