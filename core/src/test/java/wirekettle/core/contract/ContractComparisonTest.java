package wirekettle.core.contract;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import java.nio.charset.StandardCharsets;
import java.util.List;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.assist.CarryOver;
import wirekettle.core.fill.Fill;

/** Two revisions of a contract: what differs is named by field, and fills that fit are carried over. */
public class ContractComparisonTest {
    private static final String V = "{urn:halewick:vanline:2}";

    private static Contract revised(String... replaced) {
        String wsdl = new String(World.documents("vanline").files().get("VanlineDesk.wsdl"), StandardCharsets.UTF_8);
        for (int i = 0; i < replaced.length; i += 2) {
            assertTrue(wsdl.contains(replaced[i]), replaced[i]);
            wsdl = wsdl.replace(replaced[i], replaced[i + 1]);
        }
        return World.contract(World.text("VanlineDesk.wsdl", wsdl));
    }

    @Test
    public void theSameContractHasNoChanges() {
        assertEquals(ContractComparison.of(World.vanline(), revised()), List.of());
    }

    @DataProvider
    public static Object[][] revisions() {
        String track = "/" + V + "TrackTransport/" + V;
        return new Object[][] {
            {
                "<xs:element name=\"since\" type=\"xs:date\" minOccurs=\"0\"/>",
                "",
                "REMOVED request " + track + "since field: date 0..1 > "
            },
            {
                "<xs:element name=\"since\" type=\"xs:date\" minOccurs=\"0\"/>",
                "<xs:element name=\"since\" type=\"xs:dateTime\" minOccurs=\"0\"/>",
                "CHANGED request " + track + "since type: date > dateTime"
            },
            {
                "<xs:element name=\"since\" type=\"xs:date\" minOccurs=\"0\"/>",
                "<xs:element name=\"since\" type=\"xs:date\"/>",
                "CHANGED request " + track + "since occurrence: 0..1 > 1..1"
            },
            {
                "<xs:enumeration value=\"delivered\"/>",
                "<xs:enumeration value=\"delivered\"/><xs:enumeration value=\"lost\"/>",
                "CHANGED reply /" + V + "TrackTransportResponse/" + V + "event/" + V
                        + "kind facets: one of collected, loaded, checked, delayed, delivered > one of collected, loaded,"
                        + " checked, delayed, delivered, lost"
            },
            {
                "soapAction=\"urn:halewick:vanline:TrackTransport\"",
                "soapAction=\"urn:halewick:vanline:3:TrackTransport\"",
                "CHANGED   soapAction: urn:halewick:vanline:TrackTransport > urn:halewick:vanline:3:TrackTransport"
            },
            {
                "location=\"http://vanline.invalid/desk\"",
                "location=\"https://vanline.invalid/desk\"",
                "CHANGED   address: http://vanline.invalid/desk > https://vanline.invalid/desk"
            },
        };
    }

    @Test(dataProvider = "revisions")
    public void aChangeIsNamedByItsFieldWithOldAndNew(String before, String after, String expected) {
        List<String> said = ContractComparison.of(World.vanline(), revised(before, after)).stream()
                .map(c -> c.kind() + " " + c.message() + " " + c.field() + " " + c.what() + ": " + c.before() + " > "
                        + c.after())
                .toList();
        assertTrue(said.contains(expected), said.toString());
        assertTrue(said.size() <= 3, said.toString());
    }

    @Test
    public void whatChangedAlikeAtSeveralPortsIsToldOnce() {
        GivenDocuments next = new GivenDocuments();
        World.documents("register")
                .files()
                .forEach((name, bytes) -> next.add(
                        name,
                        new String(bytes, StandardCharsets.UTF_8)
                                .replace("<xs:maxLength value=\"20\"/>", "<xs:maxLength value=\"12\"/>")
                                .getBytes(StandardCharsets.UTF_8)));
        List<ContractComparison.Change> changes = ContractComparison.of(World.register(), World.contract(next));
        assertEquals(changes.size(), 1, changes.toString());
        assertEquals(changes.get(0).port(), "RegisterPort, RegisterPort12");
    }

    @Test
    public void fillsAreKeptMovedAndLost() {
        Contract moved = revised(
                "urn:halewick:vanline:2",
                "urn:halewick:vanline:3",
                "<xs:element name=\"since\" type=\"xs:date\" minOccurs=\"0\"/>",
                "");
        List<Fill> fills = List.of(
                Fill.wire("a", "/" + V + "TrackTransport/" + V + "reference", "$transport/ref"),
                Fill.wire("b", "/" + V + "TrackTransport/" + V + "since", "$transport/day"));
        Message request = moved.operation(null, null, "TrackTransport")
                .orElseThrow()
                .operation()
                .input();
        List<CarryOver.Carried> carried = CarryOver.of(fills, moved, request);
        assertEquals(carried.get(0).outcome(), CarryOver.Outcome.MOVED);
        assertEquals(
                carried.get(0).fill().target(),
                "/{urn:halewick:vanline:3}TrackTransport/{urn:halewick:vanline:3}reference");
        assertEquals(carried.get(1).outcome(), CarryOver.Outcome.LOST);
        assertEquals(
                CarryOver.of(
                                fills,
                                World.vanline(),
                                World.vanline()
                                        .operation(null, null, "TrackTransport")
                                        .orElseThrow()
                                        .operation()
                                        .input())
                        .get(1)
                        .outcome(),
                CarryOver.Outcome.KEPT);
    }

    @Test
    public void aNewDerivedTypeAndAFieldOfAnOldOneAreBothNamed() throws Exception {
        Contract before = World.awkward("derived-across-files/service.wsdl");
        GivenDocuments given = new GivenDocuments();
        before.documents()
                .forEach(d -> given.add(
                        d.name(),
                        new String(d.bytes(), StandardCharsets.UTF_8)
                                .replace(
                                        "<xs:element name=\"vessel\" type=\"xs:string\"/>",
                                        "<xs:element name=\"vessel\" type=\"xs:string\"/><xs:element name=\"deck\" type=\"xs:int\"/>")
                                .replace(
                                        "  <xs:complexType name=\"RoadPaper\">",
                                        "  <xs:complexType name=\"RailPaper\"><xs:complexContent><xs:extension base=\"p:Paper\"/></xs:complexContent></xs:complexType>\n  <xs:complexType name=\"RoadPaper\">")
                                .getBytes(StandardCharsets.UTF_8)));
        Contract after = ContractReader.read(before.entries(), given, false, ImportProgress.NONE);
        List<String> said = ContractComparison.of(before, after).stream()
                .map(c -> c.kind() + " " + c.what() + " " + c.after())
                .toList();
        assertEquals(said, List.of("ADDED type to pick RailPaper", "ADDED field int 1..1"));
    }
}
