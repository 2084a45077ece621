package wirekettle.core.simulate;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertNotNull;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;

import java.nio.charset.StandardCharsets;
import java.util.List;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.fill.Fill;
import wirekettle.core.schema.Picks;
import wirekettle.core.simulate.SimulatorRule.Match;
import wirekettle.core.soap.Envelopes;
import wirekettle.core.soap.ExampleEnvelope;
import wirekettle.core.soap.Reply;
import wirekettle.core.soap.ReplyReader;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeWriter;

/** A table of rules: when a request field equals a value, answer with these values, this fault, after this delay. */
public class SimulatorRulesTest {
    private static final String NS = "{urn:halewick:register:1}";
    private static final String NUMBER = "/" + NS + "LookUpInstitution/" + NS + "registrationNumber";
    private static final String NAME = "/" + NS + "LookUpInstitutionResponse/" + NS + "name";

    private final Contract contract = World.register();
    private final Offered offered = contract.operations().stream()
            .filter(o -> o.operation().key().equals("LookUpInstitution"))
            .findFirst()
            .orElseThrow();

    private static SimulatorRule rule(List<Match> matches, List<Fill> fills, String fault, Integer delay) {
        return new SimulatorRule("LookUpInstitution", null, null, fills, fault, "said so", delay, null, matches, true);
    }

    private String request(String number) {
        return ExampleEnvelope.of(contract, offered.operation().input(), false, Picks.NONE)
                .text(offered.port().soapVersion(), false)
                .replaceFirst("(registrationNumber>)[^<]*", "$1" + number);
    }

    private Simulator.Answer answer(Simulator simulator, String number) {
        return simulator.answer("text/xml", request(number).getBytes(StandardCharsets.UTF_8));
    }

    private static Reply read(Simulator.Answer answer) throws Exception {
        return ReplyReader.read(answer.body());
    }

    private List<String> wrong(Node body) {
        return contract.check().problems(NodeWriter.write(body, false).getBytes(StandardCharsets.UTF_8));
    }

    @Test
    public void theFirstRuleThatHoldsAnswersAndAnExampleOtherwise() throws Exception {
        Simulator simulator = new Simulator(
                contract,
                List.of(
                        rule(
                                List.of(new Match(NUMBER, "RG-1")),
                                List.of(Fill.constant("a", NAME, "Museum of Straps")),
                                null,
                                300),
                        rule(
                                List.of(new Match(NUMBER, "RG-1")),
                                List.of(Fill.constant("a", NAME, "never")),
                                null,
                                null),
                        rule(
                                List.of(new Match(NUMBER, "RG-2")),
                                List.of(),
                                offered.operation().faults().get(0).name(),
                                null)),
                null);
        Simulator.Answer first = answer(simulator, "RG-1");
        Node reply = read(first).body().get(0);
        assertEquals(reply.textOf("name"), "Museum of Straps");
        assertEquals(wrong(reply), List.of(), "what the rule leaves open is filled validly");
        assertEquals(first.delayMillis(), 300);
        assertEquals(first.told().rule(), Integer.valueOf(0));
        Simulator.Answer fault = answer(simulator, "RG-2");
        assertEquals(fault.status(), 500);
        assertEquals(read(fault).fault().reason(), "said so");
        assertEquals(wrong(read(fault).fault().detail().get(0)), List.of());
        Simulator.Answer other = answer(simulator, "RG-3");
        assertNull(other.told().rule());
        assertEquals(other.told().operation(), "LookUpInstitution");
        assertEquals(wrong(read(other).body().get(0)), List.of());
    }

    @Test
    public void anEmptyValueMeansThatTheFieldIsNotThere() {
        String optional = "/" + NS + "LookUpInstitution/" + NS + "collectOn";
        Simulator simulator =
                new Simulator(contract, List.of(rule(List.of(new Match(optional, "")), List.of(), null, null)), null);
        assertNotNull(answer(simulator, "RG-1").told().rule());
        String with = request("RG-1");
        int end = with.indexOf("</", with.indexOf("registrationNumber>", with.indexOf("registrationNumber>") + 1));
        assertTrue(end > 0);
        assertNull(new Simulator(contract, List.of(rule(List.of(new Match(NUMBER, "")), List.of(), null, null)), null)
                .answer("text/xml", with.getBytes(StandardCharsets.UTF_8))
                .told()
                .rule());
    }

    @Test
    public void aRequestThatDoesNotFitTheContractIsToldWithItsAnswer() {
        Simulator simulator = new Simulator(contract, List.of(), null);
        Simulator.Answer answer = simulator.answer(
                "text/xml",
                request("RG-1").replace("registrationNumber>", "number>").getBytes(StandardCharsets.UTF_8));
        assertTrue(
                answer.told().problem().contains("LookUpInstitution"),
                answer.told().problem());
        Simulator.Answer none = simulator.answer("text/xml", "no XML".getBytes(StandardCharsets.UTF_8));
        assertEquals(none.status(), 500);
        assertNull(none.told().operation());
    }

    @Test
    public void taughtFromAnExchangeItAnswersAsTheRealOneDid() throws Exception {
        Simulator real = new Simulator(
                contract,
                List.of(rule(List.of(), List.of(Fill.constant("a", NAME, "Lünbrück & Sons")), null, null)),
                null);
        String asked = request("RG-7");
        Simulator.Answer given = answer(real, "RG-7");
        String fault = Envelopes.fault(offered.port().soapVersion(), true, "closed on Mondays", null);
        Simulator taught = new Simulator(
                contract,
                List.of(
                        RuleTeacher.of(contract, offered, asked, new String(given.body(), StandardCharsets.UTF_8), 200),
                        RuleTeacher.of(contract, offered, request("RG-8"), fault, 500)),
                null);
        Reply again = read(answer(taught, "RG-7"));
        assertEquals(again.body().get(0).toString(), read(given).body().get(0).toString());
        assertEquals(read(answer(taught, "RG-8")).fault().reason(), "closed on Mondays");
        assertNull(answer(taught, "RG-9").told().rule());
    }

    @Test
    public void whatARuleLeavesOpenInsideARepeatIsCompleted() throws Exception {
        Contract vanline = World.vanline();
        Offered booking = vanline.operations().stream()
                .filter(o -> o.operation().key().equals("BookTransport"))
                .findFirst()
                .orElseThrow();
        String crate = "/{urn:halewick:vanline:2}BookTransportResponse/{urn:halewick:vanline:2}crate";
        List<Fill> fills = List.of(
                Fill.repeat("f1", crate, "$request/crate", "asked"),
                Fill.wire("f2", crate + "/{urn:halewick:vanline:2}number", "$asked/number"));
        Simulator simulator = new Simulator(
                vanline,
                List.of(new SimulatorRule("BookTransport", null, null, fills, null, null, null, null, List.of(), true)),
                null);
        SoapVersion version = booking.port().soapVersion();
        String asked = ExampleEnvelope.of(vanline, booking.operation().input(), true, Picks.NONE)
                .text(version, false);
        Node reply = read(simulator.answer("text/xml", asked.getBytes(StandardCharsets.UTF_8)))
                .body()
                .get(0);
        assertEquals(
                vanline.check().problems(NodeWriter.write(reply, false).getBytes(StandardCharsets.UTF_8)), List.of());
        List<Node> crates = reply.children().stream()
                .filter(c -> c.name().local().equals("crate"))
                .toList();
        assertFalse(crates.isEmpty());
        for (Node made : crates) {
            assertNotNull(made.textOf("number"));
            assertNotNull(made.textOf("label"), "the label no fill gives");
        }
    }
}
