package wirekettle.core.assist;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertNotNull;
import static org.testng.Assert.assertTrue;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.assist.MessageSuggestions.Proposed;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Message;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.request.ByteOut;
import wirekettle.core.request.FillPlan;
import wirekettle.core.value.Grouping;
import wirekettle.core.value.Node;
import wirekettle.core.value.ValueFormat;

/** Suggestions for whole messages: lists are bound to what repeats, and what is inside follows. */
public class MessageSuggestionsTest {
    private static final String V = "{urn:halewick:vanline:2}";
    private static final String ROOT = "/" + V + "BookTransport/" + V;
    private static final String CRATE = ROOT + "crate";
    private final Contract vanline = World.vanline();
    private final Message request = vanline.operation(null, null, "BookTransport")
            .orElseThrow()
            .operation()
            .input();
    private final MappingContext context = MappingContext.of(new Expressions());

    /** Loans whose rows were put together: two of them have several crates. */
    private static List<Scope> grouped() {
        List<Scope> samples = new ArrayList<>();
        for (int loan = 1; loan <= 3; loan++) {
            List<Node> rows = new ArrayList<>();
            for (int crate = 1; crate <= loan; crate++) {
                rows.add(World.record(
                        "record",
                        "loan_no",
                        "HC-2048" + loan,
                        "crate_number",
                        "HC-2048" + loan + "-" + crate,
                        "collect_on",
                        "0" + loan + ".12.2026",
                        "gross_kilograms",
                        (40 + loan * crate) + ",5",
                        "climate",
                        crate == 1 ? "A" : "B1"));
            }
            samples.add(Scope.empty().with("loan", Grouping.header(rows)));
        }
        return samples;
    }

    private Map<String, Proposed> proposed(List<Fill> fills, List<Scope> samples, String lines) {
        Map<String, ValueFormat> formats = Map.of(
                "$loan/collect_on", ValueFormat.date("dd.MM.yyyy"),
                "$loan/line/gross_kilograms", ValueFormat.number(",", null));
        SuggestionSources from = new SuggestionSources(samples, List.of("loan"), lines, formats::get, Map.of());
        Map<String, Proposed> byTarget = new HashMap<>();
        MessageSuggestions.of(request.elements().stream().map(vanline::sheet).toList(), fills, from, context)
                .forEach(p -> byTarget.put(p.fill().target(), p));
        return byTarget;
    }

    @Test
    public void aListIsBoundToTheLinesOfGroupedRowsAndItsFieldsToThose() {
        Map<String, Proposed> found = proposed(List.of(), grouped(), "$loan/line");
        Proposed crates = found.get(CRATE);
        assertNotNull(crates, found.keySet().toString());
        assertEquals(crates.fill().repeat().from(), "$loan/line");
        assertEquals(crates.fill().repeat().as(), "line");
        assertTrue(crates.score() >= Suggester.ACCEPT_BAR, crates.toString());
        assertTrue(crates.reason().contains("one for each $loan/line"), crates.reason());
        Proposed number = found.get(CRATE + "/" + V + "number");
        assertEquals(number.fill().wire(), "$line/crate_number");
        assertEquals(number.needs(), CRATE);
        Proposed weight = found.get(CRATE + "/" + V + "grossKilograms");
        assertEquals(weight.fill().wire(), "$line/gross_kilograms");
        assertEquals(weight.fill().format(), ValueFormat.number(",", null));
        Proposed reference = found.get(ROOT + "loanReference");
        assertEquals(reference.fill().wire(), "$loan/loan_no");
        assertEquals(reference.needs(), null);
        assertTrue(
                found.values().stream()
                        .noneMatch(p -> "$loan/crate_number".equals(p.fill().wire())),
                "what differs from line to line is no field of the loan");
    }

    @Test
    public void whatIsProposedTogetherMakesAPlanThatWritesEveryLine() {
        List<Fill> fills = new ArrayList<>();
        proposed(List.of(), grouped(), "$loan/line").values().stream()
                .filter(p -> p.score() >= Suggester.ACCEPT_BAR)
                .forEach(p -> fills.add(p.fill().renamed("q" + fills.size())));
        FillPlan plan = FillPlan.compile(vanline, request, null, fills, Set.of("loan"), context);
        ByteOut out = new ByteOut();
        plan.write(grouped().get(2), out);
        String text = new String(out.bytes(), java.nio.charset.StandardCharsets.UTF_8);
        for (int crate = 1; crate <= 3; crate++) {
            assertTrue(text.contains(":number>HC-20483-" + crate + "<"), text);
        }
        assertTrue(text.contains("grossKilograms>49.5<"), text);
    }

    @Test
    public void insideARepeatThatIsThereOnlyItsNodesAreOffered() {
        List<Fill> fills = List.of(
                Fill.repeat("r", CRATE, "$loan/line", "each")
                        .with(new Fill.Each("$each/climate != 'A'", List.of(), null)),
                Fill.wire("n", CRATE + "/" + V + "number", "$each/crate_number"));
        Map<String, Proposed> found = proposed(fills, grouped(), "$loan/line");
        assertFalse(found.containsKey(CRATE));
        assertEquals(found.get(CRATE + "/" + V + "grossKilograms").fill().wire(), "$each/gross_kilograms");
        assertEquals(found.get(CRATE + "/" + V + "grossKilograms").needs(), null);
        assertFalse(found.containsKey(CRATE + "/" + V + "number"), "it is filled");
    }

    /** Returns what is proposed for a consignment filled from one tree, by names without namespaces. */
    private Map<String, Proposed> consigned(String variable, String tree, Fill... fills) {
        Contract consignment = World.contract(World.resource("consignment.wsdl"));
        Message message = consignment.operations().get(0).operation().input();
        Scope sample = Scope.empty().with(variable, World.tree(tree));
        SuggestionSources from =
                new SuggestionSources(List.of(sample), List.of(variable), null, path -> null, Map.of());
        Map<String, Proposed> found = new HashMap<>();
        MessageSuggestions.of(
                        message.elements().stream().map(consignment::sheet).toList(), List.of(fills), from, context)
                .forEach(p -> found.put(p.fill().target().replaceAll("\\{[^}]*}", ""), p));
        return found;
    }

    @Test
    public void nestedListsOfAScriptAreBoundOneInsideTheOther() {
        Map<String, Proposed> found = consigned(
                "message",
                "<m><reference>HC-1</reference><tag>a</tag><tag>b</tag>"
                        + "<crates><crate><no>1</no><kg>2.5</kg><object>vase</object><object>bowl</object></crate>"
                        + "<crate><no>2</no><kg>3</kg><object>mask</object></crate></crates></m>");
        assertEquals(found.get("/Consign/tag").fill().repeat().from(), "$message/tag");
        Proposed crates = found.get("/Consign/crate");
        assertEquals(crates.fill().repeat().from(), "$message/crates/crate");
        assertEquals(found.get("/Consign/crate/kg").fill().wire(), "$crate/kg");
        Proposed object = found.get("/Consign/crate/object");
        assertEquals(object.fill().repeat().from(), "$crate/object");
        assertEquals(object.needs(), crates.fill().target());
        assertEquals(found.get("/Consign/reference").fill().wire(), "$message/reference");
    }

    @Test
    public void insideARepeatThatStandsInAnotherItsOwnNodesAreOffered() {
        String crate = "/{urn:halewick:consignment}Consign/{urn:halewick:consignment}crate";
        Map<String, Proposed> found = consigned(
                "loan",
                "<loan><box><no>1</no><kg>2</kg><object>vase</object></box>"
                        + "<box><no>2</no><object>mask</object><object>bowl</object></box></loan>",
                Fill.repeat("r", crate, "$loan/box", "box"));
        assertEquals(found.get("/Consign/crate/kg").fill().wire(), "$box/kg");
        Proposed objects = found.get("/Consign/crate/object");
        assertEquals(objects.fill().repeat().from(), "$box/object");
        assertEquals(objects.needs(), null, "the crates are there already");
    }

    @Test
    public void withoutAnythingThatRepeatsAListIsFilledOnce() {
        List<Scope> flat = List.of(
                Scope.empty().with("loan", World.record("loan", "crate_number", "HC-1-1", "gross_kilograms", "40")));
        Map<String, Proposed> found = proposed(List.of(), flat, null);
        assertEquals(found.get(CRATE + "/" + V + "number").fill().wire(), "$loan/crate_number");
        assertFalse(found.containsKey(CRATE));
    }

    @Test
    public void thereIsNothingToSuggestWithoutSamplesOrFields() {
        assertEquals(proposed(List.of(), List.of(), "$loan/line"), Map.of());
        assertEquals(
                MessageSuggestions.of(
                        List.of(),
                        List.of(),
                        new SuggestionSources(grouped(), List.of("loan"), null, path -> null, Map.of()),
                        context),
                List.of());
    }
}
