package wirekettle.core.assist;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Message;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.request.ByteOut;
import wirekettle.core.request.FillPlan;
import wirekettle.core.value.ValueFormat;

public class SampleProofTest {
    private static final String V = "{urn:halewick:vanline:2}";
    private static final String ROOT = "/" + V + "BookTransport/" + V;
    private final Contract vanline = World.vanline();
    private final Message request = vanline.operation(null, null, "BookTransport")
            .orElseThrow()
            .operation()
            .input();
    private final MappingContext context = MappingContext.of(new Expressions());

    private FillPlan plan(List<Fill> fills) {
        return FillPlan.compile(vanline, request, SoapVersion.SOAP_11, fills, Set.of("loan"), context);
    }

    private static List<Scope> samples() {
        List<Scope> samples = new ArrayList<>();
        for (int i = 0; i < 12; i++) {
            samples.add(Scope.empty()
                    .with(
                            "loan",
                            World.tree("<loan><no>" + (i == 3 ? "" : "HC-" + i) + "</no><kg>" + i + ",5</kg><town>"
                                    + (i % 4 == 0 ? "" : "Halewick") + "</town><on>0" + (1 + i % 9)
                                    + ".12.2026</on><crate><kg>" + i
                                    + "</kg></crate><crate><kg>x</kg></crate></loan>")));
        }
        return samples;
    }

    private static List<Fill> choices() {
        return List.of(
                Fill.wire("a", ROOT + "loanReference", "$loan/no"),
                Fill.wire("b", ROOT + "collectFrom/" + V + "city", "$loan/town"),
                Fill.constant("c", ROOT + "collectFrom/" + V + "name", "Halewick Crating"),
                Fill.wire("d", ROOT + "collectOn", "$loan/on"),
                Fill.wire("d", ROOT + "collectOn", "$loan/on").with(ValueFormat.date("dd.MM.yyyy")),
                Fill.constant("e", ROOT + "deliverWithinDays", "3"),
                Fill.wire("f", ROOT + "deliverOn", "$loan/on").with(ValueFormat.date("dd.MM.yyyy")),
                Fill.repeat("g", ROOT + "crate", "$loan/crate", "crate"),
                Fill.wire("h", ROOT + "crate/" + V + "grossKilograms", "$crate/kg"),
                Fill.wire("i", ROOT + "crate/" + V + "number", "$loan/no"),
                Fill.expression("j", ROOT + "remark", "concat($loan/no, ' in ', $loan/town)"),
                Fill.wire("k", "/" + V + "BookingHeader/" + V + "desk", "$loan/town"));
    }

    /** What one sample says of every field, computed on its own. */
    private static Map<String, String> alone(FillPlan plan, Scope scope) {
        Map<String, String> all = new java.util.TreeMap<>();
        plan.values(scope, new ByteOut()).forEach((path, v) -> {
            if (!v.value().isEmpty() || v.problem() != null) {
                all.put(
                        path,
                        v.value() + "|"
                                + (v.problem() == null ? "" : v.problem().code()));
            }
        });
        return all;
    }

    private static Map<String, String> of(SampleProof proof, int sample) {
        Map<String, String> all = new java.util.TreeMap<>();
        proof.values().forEach((path, v) -> {
            if (!v[sample].value().isEmpty() || v[sample].problem() != null) {
                all.put(
                        path,
                        v[sample].value() + "|"
                                + (v[sample].problem() == null
                                        ? ""
                                        : v[sample].problem().code()));
            }
        });
        return all;
    }

    @Test
    public void afterAnyEditsTheProofIsWhatComputingEverythingWouldGive() {
        Random random = new Random(5);
        List<Scope> samples = samples();
        List<Fill> fills = new ArrayList<>();
        SampleProof proof = SampleProof.of(plan(fills), samples);
        for (int round = 0; round < 60; round++) {
            Fill edit = choices().get(random.nextInt(choices().size()));
            boolean there = fills.removeIf(f -> f.target().equals(edit.target()));
            if (!there || random.nextBoolean()) {
                fills.add(edit);
            }
            FillPlan plan = plan(fills);
            proof = proof.edited(plan);
            for (int i = 0; i < samples.size(); i++) {
                assertEquals(of(proof, i), alone(plan, samples.get(i)), "round " + round + ", sample " + i);
            }
        }
    }

    @Test
    public void anEditComputesOnlyThePartItTouches() {
        Contract register = World.register();
        Message look = register.operations().get(0).operation().input();
        String r = "/{urn:halewick:register:1}LookUpInstitution/{urn:halewick:register:1}";
        List<Fill> fills = new ArrayList<>(Arrays.asList(
                Fill.wire("a", r + "registrationNumber", "$loan/no"), Fill.constant("b", r + "requestedBy", "x")));
        SampleProof proof =
                SampleProof.of(FillPlan.compile(register, look, null, fills, Set.of("loan"), context), samples());
        fills.add(Fill.wire("c", r + "loanReference", "$loan/town"));
        SampleProof edited = proof.edited(FillPlan.compile(register, look, null, fills, Set.of("loan"), context));
        assertEquals(edited.computedParts(), 1);
        assertTrue(edited.values().get(r + "loanReference")[1].value().equals("Halewick"));
        assertEquals(edited.values().get(r + "registrationNumber")[3].problem().code(), "empty");
    }
}
