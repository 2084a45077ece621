package wirekettle.core.contract;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Map;
import java.util.TreeSet;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.schema.ExampleMessage;
import wirekettle.core.schema.Picks;
import wirekettle.core.schema.SheetField;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeWriter;
import wirekettle.core.xml.Finding;

/** One awkward contract for each construct met in the wild: what is found, and that its messages can be made. */
public class AwkwardContractsTest {
    /** What each contract that is not sound says of itself; all others must say nothing. */
    private static final Map<String, List<String>> FINDINGS = Map.ofEntries(
            Map.entry("bad-facets.wsdl", List.of("bad-facet 7", "bad-occurs 9", "bad-pattern 7")),
            Map.entry("bare-ampersand.wsdl", List.of("bare-ampersand 23", "html-entity 23")),
            Map.entry("defined-twice.wsdl", List.of("defined-twice 8")),
            Map.entry("differs-in-case.wsdl", List.of("differs-in-case 14", "differs-in-case 9")),
            Map.entry("lost-prefix.wsdl", List.of("prefix-declared 19")),
            Map.entry("missing-schema.wsdl", List.of("document-missing 5", "unresolved-type 6")),
            Map.entry("no-soap-action.wsdl", List.of("action-missing 20")),
            Map.entry("one-way-and-notification.wsdl", List.of("not-called 15", "not-called 16")),
            Map.entry("part-by-type.wsdl", List.of("part-by-type 11")),
            Map.entry("policy.wsdl", List.of("policy-missing 25")),
            Map.entry("redefine/service.wsdl", List.of("redefine 5")),
            Map.entry("saved-by-browser.wsdl", List.of("script-removed 14", "text-after 25", "text-before 1")),
            Map.entry("text-before-declaration.wsdl", List.of("text-before 1")),
            Map.entry("two-documents-one-name/service.wsdl", List.of("defined-twice 3")),
            Map.entry("unresolved.wsdl", List.of("unresolved-element 9", "unresolved-group 10", "unresolved-type 8")),
            Map.entry("wrong-encoding.wsdl", List.of("wrong-encoding 8")),
            Map.entry("wrong-encoding-other-way.wsdl", List.of("wrong-encoding 8")),
            Map.entry("wrong-include/service.wsdl", List.of("include-namespace 2", "other-namespace 6")));

    @DataProvider
    public static Object[][] contracts() {
        return World.awkward().stream().map(p -> new Object[] {p}).toArray(Object[][]::new);
    }

    private static Contract read(String file) throws ContractRefused {
        return World.awkward(file, false);
    }

    @Test(dataProvider = "contracts")
    public void whatIsOddIsSaidWithItsPlaceAndNothingElseIs(String file) throws Exception {
        TreeSet<String> said = new TreeSet<>();
        for (Finding finding : read(file).findings()) {
            said.add(finding.code() + " " + finding.line());
            assertTrue(finding.column() > 0, finding.toString());
        }
        assertEquals(List.copyOf(said), FINDINGS.getOrDefault(file, List.of()), file);
    }

    @Test(dataProvider = "contracts")
    public void everyMessageHasAValidExample(String file) throws Exception {
        Contract contract = read(file);
        boolean hopeless = file.startsWith("endless") || file.startsWith("impossible");
        assertNull(contract.check().unusable(), file);
        for (Contract.Offered offered : contract.operations()) {
            for (Message message : List.of(
                    offered.operation().input(),
                    offered.operation().output() == null
                            ? Message.EMPTY
                            : offered.operation().output())) {
                for (ElementDecl element : message.elements()) {
                    for (boolean complete : new boolean[] {false, true}) {
                        var wish = new ExampleMessage.Wish(
                                complete,
                                Picks.NONE,
                                message.encoded() && message.body().contains(element));
                        ExampleMessage.Result result = contract.example(element, wish);
                        String xml = NodeWriter.write(result.root(), false);
                        List<String> wrong = contract.check().problems(xml.getBytes(StandardCharsets.UTF_8));
                        if (hopeless && element.name().local().equals("Ask")) {
                            assertEquals(result.problems().size() > 0, true, xml);
                        } else {
                            assertEquals(result.problems(), List.of(), file);
                            assertEquals(wrong, List.of(), file + " " + xml);
                        }
                    }
                }
            }
        }
    }

    @Test(dataProvider = "contracts")
    public void strictRefusesExactlyWhatHadToBeRepaired(String file) throws Exception {
        boolean repaired = read(file).findings().stream().anyMatch(f -> f.severity() != Finding.Severity.NOTE);
        if (repaired) {
            ContractRefused refused = expectThrows(ContractRefused.class, () -> World.awkward(file, true));
            assertTrue(refused.getMessage().contains(" line "), refused.getMessage());
        } else {
            assertEquals(
                    World.awkward(file, true).findings().size(),
                    read(file).findings().size());
        }
    }

    private static Operation operation(String file, String key) throws ContractRefused {
        return read(file).operation(null, null, key).orElseThrow().operation();
    }

    @Test
    public void servicesAndPortsStandSideBySide() throws Exception {
        Contract contract = read("several-services.wsdl");
        assertEquals(
                contract.operations().stream()
                        .map(o -> o.service().name() + " " + o.port().name() + " "
                                + o.port().protocol())
                        .toList(),
                List.of("North NorthPort SOAP 1.1", "North NorthPort12 SOAP 1.2", "Coast CoastPort SOAP 1.1"));
    }

    @Test
    public void overloadedOperationsAreToldApartByTheirInputs() throws Exception {
        Contract contract = read("overloaded.wsdl");
        assertEquals(
                contract.operations().stream()
                        .map(o -> o.operation().key() + " " + o.operation().action() + " "
                                + o.operation().input().body().get(0).name().local())
                        .toList(),
                List.of("Find urn:place ByPlace", "Find#2 urn:number ByNumber"));
    }

    @Test
    public void whoSpeaksFirstDecidesWhatCanBeCalled() throws Exception {
        List<Operation> operations = read("one-way-and-notification.wsdl")
                .services()
                .get(0)
                .ports()
                .get(0)
                .operations();
        assertEquals(
                operations.stream().map(o -> o.name() + " " + o.kind()).toList(),
                List.of("Tell ONE_WAY", "AskedBack SOLICIT", "Told NOTIFICATION"));
    }

    @Test
    public void headersComeFromTheSameOrAnotherMessageWithTheirFaults() throws Exception {
        Message same = operation("body-parts.wsdl", "Ask").input();
        assertEquals(names(same.headers()), List.of("Who"));
        assertEquals(names(same.body()), List.of("Ask"));
        Message other = operation("header-of-another-message.wsdl", "Ask").input();
        assertEquals(names(other.headers()), List.of("Ticket"));
        assertEquals(names(other.headerFaults()), List.of("TicketRefused"));
    }

    private static List<String> names(List<ElementDecl> elements) {
        return elements.stream().map(e -> e.name().local()).toList();
    }

    @Test
    public void httpBindingsSayHowTheirPartsTravel() throws Exception {
        Contract contract = read("http-get-and-post.wsdl");
        assertEquals(
                contract.operations().stream()
                        .map(o ->
                                o.port().protocol() + " " + o.operation().http().location() + " "
                                        + o.operation().http().input() + " "
                                        + o.operation().http().xmlReply())
                        .toList(),
                List.of(
                        "HTTP GET /read QUERY true",
                        "HTTP GET /rooms/(room)/(day) PATH false",
                        "HTTP POST /read FORM true"));
    }

    @Test
    public void partsBesideTheEnvelopeAreKnownWithTheirTypes() throws Exception {
        Message message = operation("mime-parts.wsdl", "Ask").input();
        assertEquals(names(message.body()), List.of("Ask"));
        assertEquals(
                message.attachments(), List.of(new Message.Attachment("photo", List.of("image/png", "image/jpeg"))));
    }

    @Test
    public void documentationIsKeptAtEveryLevel() throws Exception {
        Contract contract = read("documented.wsdl");
        Contract.Offered asked = contract.operations().get(0);
        assertEquals(asked.service().documentation(), "The service.");
        assertEquals(asked.port().documentation(), "The port.");
        assertEquals(asked.operation().documentation(), "Asks about a crate.");
        assertEquals(asked.operation().input().documentation(), "What is asked.");
        SheetField crate = contract.sheet(asked.operation().input().body().get(0))
                .children()
                .get(0);
        assertEquals(crate.documentation(), "The crate asked about.");
    }

    @Test
    public void policiesBecomeAdvice() throws Exception {
        Port port = read("policy.wsdl").services().get(0).ports().get(0);
        assertEquals(
                port.advice().stream().map(Advice::sentence).toList(),
                List.of(
                        "wants a UsernameToken over TLS",
                        "wants a Timestamp in the security header",
                        "would like WS-Addressing headers (optional)",
                        "wants binary content as MTOM, and sends it so"));
        assertEquals(port.advice().get(0).line(), 7);
    }

    @Test
    public void encodedRequestsTellTheirTypesAndCountTheirItems() throws Exception {
        Contract contract = read("rpc-encoded.wsdl");
        Operation count = contract.operation(null, null, "Count").orElseThrow().operation();
        var wish = new ExampleMessage.Wish(true, Picks.NONE, true);
        String xml = NodeWriter.write(
                contract.example(count.input().body().get(0), wish).root(), false);
        assertTrue(xml.contains("<house xsi:type=\"n2:string\">"), xml);
        assertTrue(xml.contains(":arrayType=\"n1:Crate[1]\""), xml);
        assertTrue(xml.contains("encodingStyle=\"http://schemas.xmlsoap.org/soap/encoding/\""), xml);
        SheetField crates =
                contract.sheet(count.input().body().get(0)).children().get(1);
        assertEquals(crates.typeLabel(), "Crate[]");
        assertEquals(crates.children().get(0).max(), -1);
    }

    @Test
    public void aRedefinedTypeHasBothItsOldAndItsNewFields() throws Exception {
        Contract contract = read("redefine/service.wsdl");
        SheetField ask = contract.sheet(
                contract.operations().get(0).operation().input().body().get(0));
        assertEquals(
                ask.children().stream()
                        .map(f -> f.name().local() + " " + f.typeLabel())
                        .toList(),
                List.of("number string ≤8", "seal string"));
    }

    @Test
    public void theSecondDocumentThatClaimsANameIsToldWhereTheFirstStands() throws Exception {
        Finding finding = read("two-documents-one-name/service.wsdl").findings().get(0);
        assertEquals(finding.document(), "two-documents-one-name/b.xsd");
        assertTrue(finding.message().contains("two-documents-one-name/a.xsd line 3"), finding.message());
    }

    @Test
    public void derivedTypesOfOtherFilesCanBePicked() throws Exception {
        Contract contract = read("derived-across-files/service.wsdl");
        ElementDecl request =
                contract.operations().get(0).operation().input().body().get(0);
        String paper = "/{urn:halewick:across}Ask/paper";
        SheetField field = contract.sheet(request).children().get(0);
        assertTrue(field.isAbstract());
        assertEquals(field.typeChoices().stream().map(n -> n.local()).toList(), List.of("RoadPaper", "SeaPaper"));
        String q = "/{urn:halewick:across}Ask/{urn:halewick:across}paper";
        String picked = q + "#2~{urn:halewick:across:sea}SeaPaper/{urn:halewick:across:sea}vessel";
        assertEquals(contract.sheet(request).find(picked).typeLabel(), "string", paper);
        Node example = contract.example(request, new ExampleMessage.Wish(false, Picks.of(List.of(picked)), false))
                .root();
        assertEquals(example.children().size(), 2);
        assertEquals(example.children().get(1).type().local(), "SeaPaper");
        assertEquals(
                contract.check().problems(NodeWriter.write(example, false).getBytes(StandardCharsets.UTF_8)),
                List.of());
    }

    @Test
    public void substitutesStandUnderTheirOwnName() throws Exception {
        Contract contract = read("substitution-group.wsdl");
        ElementDecl request =
                contract.operations().get(0).operation().input().body().get(0);
        SheetField party = contract.sheet(request).children().get(0);
        assertEquals(party.elementChoices().stream().map(n -> n.local()).toList(), List.of("person", "museum"));
        String museum = "/{urn:halewick:substitution}Ask/{urn:halewick:substitution}museum";
        assertEquals(contract.sheet(request).find(museum).children().size(), 2);
        Node example = contract.example(request, new ExampleMessage.Wish(false, Picks.of(List.of(museum)), false))
                .root();
        assertEquals(example.children().get(0).name().local(), "museum");
        assertEquals(
                contract.check().problems(NodeWriter.write(example, false).getBytes(StandardCharsets.UTF_8)),
                List.of());
    }

    @Test
    public void aPickedBranchOfAChoiceIsTheOneWritten() throws Exception {
        Contract contract = read("groups.wsdl");
        ElementDecl request =
                contract.operations().get(0).operation().input().body().get(0);
        String length = "/{urn:halewick:groups}Ask/{urn:halewick:groups}length";
        Node example = contract.example(request, new ExampleMessage.Wish(false, Picks.of(List.of(length)), false))
                .root();
        assertEquals(example.children().stream().map(n -> n.name().local()).toList(), List.of("length", "width"));
        assertEquals(
                contract.check().problems(NodeWriter.write(example, false).getBytes(StandardCharsets.UTF_8)),
                List.of());
    }
}
