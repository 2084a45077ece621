package wirekettle.core.contract;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;

import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.request.ByteOut;
import wirekettle.core.request.FillPlan;
import wirekettle.core.simulate.ServedDocuments;
import wirekettle.core.simulate.Simulator;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/** Schemas of standards that no contract has to bring along, and what is written and served of them. */
public class KnownSchemasTest {
    private static final String XML = "{http://www.w3.org/XML/1998/namespace}";

    @Test
    public void attributesOfTheXmlNamespaceKeepTheirPrefixInMessages() throws Exception {
        Contract contract = World.awkward("xml-language.wsdl", true);
        Contract.Offered offered = contract.operations().get(0);
        String c = "{urn:halewick:captions}";
        String caption = "/" + c + "Ask/" + c + "caption";
        FillPlan plan = FillPlan.compile(
                contract,
                offered.operation().input(),
                null,
                List.of(Fill.constant("a", caption, "crate"), Fill.constant("b", caption + "/@" + XML + "lang", "nv")),
                Set.of(),
                new Expressions());
        assertEquals(plan.designProblems(), List.of());
        ByteOut out = new ByteOut();
        List<MappingProblem> problems = plan.write(Scope.empty(), out);
        String text = new String(out.bytes(), StandardCharsets.UTF_8);
        assertEquals(problems, List.of());
        assertTrue(text.contains(" xml:lang=\"nv\"") && !text.contains("XML/1998"), text);
        assertEquals(contract.check().problems(out.bytes()), List.of());
    }

    @Test
    public void nothingIsFetchedAndNothingIsFoundForSchemasOfStandards() throws Exception {
        for (String file : List.of("xml-language.wsdl", "known-schemas.wsdl")) {
            Contract contract = World.awkward(file, true);
            assertEquals(contract.findings(), List.of(), file);
            assertEquals(contract.documents().size(), 1, file);
            assertEquals(contract.unavailable(), Map.of(), file);
        }
    }

    @Test
    public void aSimulatorsDescriptionNeverLeadsToTheRealService() throws Exception {
        for (String file : World.awkward()) {
            Contract contract = World.awkward(file, false);
            String own = "http://127.0.0.1:7/sim";
            ServedDocuments served = new ServedDocuments(contract, own);
            String first = new String(served.text(null), StandardCharsets.UTF_8);
            assertFalse(
                    first.matches("(?s).*[lL]ocation=\"(?!http://127.0.0.1:7/sim|[^\":]*\").*"), file + " " + first);
            // whoever reads it from the simulator alone gets the same operations, at its address
            Contract again;
            try {
                DocumentSource source = name -> {
                    byte[] text = name.equals(own + "?wsdl")
                            ? served.text(null)
                            : served.text(name.substring(own.length() + 1));
                    if (text == null) {
                        throw new java.io.FileNotFoundException(name);
                    }
                    return text;
                };
                again = ContractReader.read(List.of(own + "?wsdl"), source, false, ImportProgress.NONE);
            } catch (ContractRefused e) {
                throw new AssertionError(file + ": " + e.getMessage(), e);
            }
            assertEquals(
                    again.operations().stream().map(o -> o.operation().key()).toList(),
                    contract.operations().stream().map(o -> o.operation().key()).toList(),
                    file);
            again.operations().forEach(o -> {
                if (o.port().callable()) {
                    assertEquals(o.port().address(), own, file);
                }
            });
        }
    }

    @Test
    public void aSimulatorSendsTheReplyHeadersTheContractDeclares() throws Exception {
        for (String file : World.awkward()) {
            Contract contract = World.awkward(file, false);
            for (Contract.Offered offered : contract.operations()) {
                Message output = offered.operation().output();
                if (output == null
                        || output.headers().isEmpty()
                        || offered.port().soapVersion() == null
                        || offered.operation().input().body().isEmpty()) {
                    continue;
                }
                String request = wirekettle.core.soap.ExampleEnvelope.of(
                                contract, offered.operation().input(), false, wirekettle.core.schema.Picks.NONE)
                        .text(offered.port().soapVersion(), false);
                String answer = new String(
                        new Simulator(contract, List.of(), null)
                                .answer(request.getBytes(StandardCharsets.UTF_8))
                                .body(),
                        StandardCharsets.UTF_8);
                output.headers()
                        .forEach(header ->
                                assertTrue(answer.contains(header.name().local()), answer));
            }
        }
    }

    @Test
    public void theTypeThatCameBackIsSeenByExpressionsWiresAndConditions() throws Exception {
        Node receipt = Node.build(Name.of("document"))
                .type(new Name("urn:halewick:clearance", "Receipt"))
                .add("no", "7")
                .done();
        Node permit = Node.build(Name.of("document"))
                .type(new Name("urn:halewick:clearance", "Permit"))
                .add("no", "8")
                .done();
        Node reply = Node.branch(Name.of("reply"), List.of(receipt, permit));
        Scope scope = Scope.empty().with("reply", reply);
        Expressions expressions = new Expressions();
        assertEquals(
                expressions
                        .compile("$reply/document[@xsi:type = 'Permit']/no", Set.of("reply"))
                        .text(scope),
                "8");
        assertEquals(
                expressions.compile("$reply/document/@type", Set.of("reply")).text(scope), "Receipt Permit");
        assertTrue(expressions
                .compile("some $d in $reply/document satisfies $d/@type = 'Receipt'", Set.of("reply"))
                .test(scope));
        assertEquals(
                wirekettle.core.expression.WirePath.parse("$reply/document/@type")
                        .first(scope)
                        .text(),
                "Receipt");
    }
}
