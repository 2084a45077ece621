package wirekettle.benchmarks;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import wirekettle.core.assist.SampleProof;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.ContractReader;
import wirekettle.core.contract.GivenDocuments;
import wirekettle.core.contract.Message;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.request.ByteOut;
import wirekettle.core.request.FillPlan;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.ValueFormat;

/**
 * Sample values after one edit of a request of 500 fields, for 50 records, against computing the whole message for all
 * of them. Both compile the fills and write the message of the record shown; neither asks the schema validator.
 */
public final class SampleBenchmark {
    private static final String NS = "urn:sample";
    private static final int FIELDS = 500;
    private static final int ROWS = 50;

    private SampleBenchmark() {}

    private static String wsdl() {
        StringBuilder fields = new StringBuilder();
        for (int i = 0; i < FIELDS; i++) {
            String type = i % 10 == 3 ? "decimal" : i % 10 == 6 ? "date" : "string";
            fields.append("<xs:element name='f")
                    .append(i)
                    .append("' type='xs:")
                    .append(type)
                    .append("'");
            fields.append(i % 3 == 0 ? "" : " minOccurs='0'").append("/>");
        }
        return "<definitions name='Sample' targetNamespace='urn:s' xmlns='http://schemas.xmlsoap.org/wsdl/' "
                + "xmlns:soap='http://schemas.xmlsoap.org/wsdl/soap/' xmlns:t='urn:s' xmlns:b='" + NS
                + "' xmlns:xs='http://www.w3.org/2001/XMLSchema'><types><xs:schema targetNamespace='" + NS
                + "' elementFormDefault='qualified'><xs:element name='Book'><xs:complexType><xs:sequence>" + fields
                + "</xs:sequence></xs:complexType></xs:element></xs:schema></types>"
                + "<message name='In'><part name='p' element='b:Book'/></message><portType name='P'><operation name='Book'>"
                + "<input message='t:In'/></operation></portType><binding name='B' type='t:P'>"
                + "<soap:binding transport='http://schemas.xmlsoap.org/soap/http'/><operation name='Book'>"
                + "<soap:operation soapAction=''/><input><soap:body use='literal'/></input></operation></binding>"
                + "<service name='S'><port name='L' binding='t:B'><soap:address location='http://b.invalid'/></port></service></definitions>";
    }

    private static Fill fill(int i, int edition) {
        String target = "/{" + NS + "}Book/{" + NS + "}f" + i;
        String id = "q" + i;
        return switch (i % 10) {
            case 0 -> Fill.constant(id, target, "edition " + edition);
            case 3 -> Fill.wire(id, target, "$loan/c" + i).with(ValueFormat.number(",", null));
            case 6 -> Fill.wire(id, target, "$loan/c" + i).with(ValueFormat.date("dd.MM.yyyy"));
            case 8 -> Fill.join(id, target, " ", "$loan/c1", "$loan/c" + i, "\"" + edition + "\"");
            case 9 -> Fill.expression(
                    id, target, "concat($loan/c" + i + ", '-', string-length($loan/c2), '" + edition + "')");
            default -> Fill.wire(
                    id, target, "$loan/c" + (edition == 0 ? i : (i + edition * 10) % FIELDS / 10 * 10 + 1));
        };
    }

    private static Node record(int row) {
        Node.Builder record = Node.build(Name.of("loan"));
        for (int i = 0; i < FIELDS; i++) {
            String value = i % 10 == 3
                    ? row + "," + i
                    : i % 10 == 6 ? "0" + (1 + row % 9) + ".12.2026" : "value " + i + " of " + row;
            record.add("c" + i, value);
        }
        return record.done();
    }

    /** Runs the benchmark. */
    public static void main(String[] args) throws Exception {
        Contract contract =
                ContractReader.read(new GivenDocuments().add("s.wsdl", wsdl().getBytes(StandardCharsets.UTF_8)), true);
        Message message = contract.operations().get(0).operation().input();
        MappingContext context = MappingContext.of(new Expressions());
        List<Scope> scopes = new ArrayList<>();
        for (int row = 0; row < ROWS; row++) {
            scopes.add(Scope.empty().with("loan", record(row)));
        }
        List<Fill> fills = new ArrayList<>();
        for (int i = 0; i < FIELDS; i++) {
            fills.add(fill(i, 0));
        }
        int[] edition = {0};
        SampleProof[] last = {SampleProof.of(plan(contract, message, fills, context), scopes)};
        double[] seconds = Ratio.medians(
                () -> {
                    // every kind of fill takes its turn
                    int at = edition[0]++ * 37 % FIELDS;
                    fills.set(at, fill(at, 1 + edition[0] % 7));
                    FillPlan plan = plan(contract, message, fills, context);
                    SampleProof proof = last[0].edited(plan);
                    shown(plan, scopes);
                    if (proof.computedParts() > 1 || proof.values().size() != FIELDS) {
                        throw new AssertionError(proof.computedParts() + " parts were computed again");
                    }
                    last[0] = proof;
                },
                () -> {
                    FillPlan plan = plan(contract, message, fills, context);
                    if (SampleProof.of(plan, scopes).values().size() != FIELDS) {
                        throw new AssertionError("some field has no value");
                    }
                    shown(plan, scopes);
                },
                30,
                args.length > 0 ? 101 : 61);
        System.out.printf(
                Locale.ROOT,
                "sample: %.2f ms after an edit; %.2f ms for the whole: %d fields, %d records%n",
                seconds[0] * 1000,
                seconds[1] * 1000,
                FIELDS,
                ROWS);
        System.exit(Ratio.atMost(seconds[0] / seconds[1], 0.2));
    }

    private static FillPlan plan(Contract contract, Message message, List<Fill> fills, MappingContext context) {
        return FillPlan.compile(contract, message, null, fills, Set.of("loan"), context);
    }

    private static void shown(FillPlan plan, List<Scope> scopes) {
        if (!plan.write(scopes.get(0), new ByteOut()).isEmpty()) {
            throw new AssertionError("the record shown does not map");
        }
    }
}
