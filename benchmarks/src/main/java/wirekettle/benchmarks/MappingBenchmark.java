package wirekettle.benchmarks;

import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.StringReader;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import javax.xml.transform.stream.StreamSource;
import net.sf.saxon.s9api.Processor;
import net.sf.saxon.s9api.Serializer;
import net.sf.saxon.s9api.XdmNode;
import net.sf.saxon.s9api.Xslt30Transformer;
import net.sf.saxon.s9api.XsltExecutable;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.ContractReader;
import wirekettle.core.contract.GivenDocuments;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.Fill;
import wirekettle.core.request.ByteOut;
import wirekettle.core.request.FillPlan;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeReader;
import wirekettle.core.value.ValueFormat;
import wirekettle.core.xml.XmlLimits;

/**
 * One mapping (20 wires, 5 formats, 3 constants, 2 expressions, a repeat) against hand-written XSLT on Saxon-HE. What
 * is held has expressions that are worked out without the engine; with two that need it the figure is told beside it.
 */
public final class MappingBenchmark {
    private static final String NS = "urn:bench";
    private static final String P = "/{" + NS + "}Book";

    private MappingBenchmark() {}

    private static String field(String name) {
        return P + "/{" + NS + "}" + name;
    }

    private static String wsdl() {
        StringBuilder fields = new StringBuilder();
        for (int i = 1; i <= 18; i++) {
            fields.append("<xs:element name='w").append(i).append("' type='xs:string'/>");
        }
        fields.append("<xs:element name='n1' type='xs:decimal'/><xs:element name='n2' type='xs:decimal'/>"
                + "<xs:element name='n3' type='xs:decimal'/><xs:element name='d1' type='xs:date'/><xs:element name='d2' type='xs:date'/>"
                + "<xs:element name='c1' type='xs:string'/><xs:element name='c2' type='xs:string'/><xs:element name='c3' type='xs:string'/>"
                + "<xs:element name='e1' type='xs:string'/><xs:element name='e2' type='xs:string'/>"
                + "<xs:element name='crate' maxOccurs='unbounded'><xs:complexType><xs:sequence><xs:element name='no' type='xs:string'/>"
                + "<xs:element name='size' type='xs:int'/></xs:sequence></xs:complexType></xs:element>");
        return "<definitions name='Bench' targetNamespace='urn:b' xmlns='http://schemas.xmlsoap.org/wsdl/' "
                + "xmlns:soap='http://schemas.xmlsoap.org/wsdl/soap/' xmlns:t='urn:b' xmlns:b='" + NS
                + "' xmlns:xs='http://www.w3.org/2001/XMLSchema'><types><xs:schema targetNamespace='" + NS
                + "' elementFormDefault='qualified'><xs:element name='Book'><xs:complexType><xs:sequence>" + fields
                + "</xs:sequence></xs:complexType></xs:element></xs:schema></types>"
                + "<message name='In'><part name='p' element='b:Book'/></message><portType name='P'><operation name='Book'>"
                + "<input message='t:In'/></operation></portType><binding name='B' type='t:P'>"
                + "<soap:binding transport='http://schemas.xmlsoap.org/soap/http'/><operation name='Book'>"
                + "<soap:operation soapAction=''/><input><soap:body use='literal'/></input></operation></binding>"
                + "<service name='S'><port name='L' binding='t:B'><soap:address location='http://b.invalid'/></port></service></definitions>";
    }

    private static final String[] PLAIN = {"concat(LOAN/f1, '/', LOAN/f2)", "substring(LOAN/f3, 1, 4)"};
    private static final String[] ENGINE = {
        "string-join((LOAN/f1, LOAN/f2), '/')", "if (string-length(LOAN/f3) gt 4) then substring(LOAN/f3, 1, 4) else ''"
    };

    private static List<Fill> fills(String[] expressions) {
        List<Fill> fills = new ArrayList<>();
        for (int i = 1; i <= 18; i++) {
            fills.add(Fill.wire("w" + i, field("w" + i), "$loan/f" + i));
        }
        for (int i = 1; i <= 3; i++) {
            fills.add(Fill.wire("n" + i, field("n" + i), "$loan/amount" + i).with(ValueFormat.number(",", null)));
        }
        fills.add(Fill.wire("d1", field("d1"), "$loan/day1").with(ValueFormat.date("dd.MM.yyyy")));
        fills.add(Fill.wire("d2", field("d2"), "$loan/day2").with(ValueFormat.date("dd.MM.yyyy")));
        for (int i = 1; i <= 3; i++) {
            fills.add(Fill.constant("c" + i, field("c" + i), "HALEWICK " + i));
        }
        fills.add(Fill.expression("e1", field("e1"), expressions[0].replace("LOAN", "$loan")));
        fills.add(Fill.expression("e2", field("e2"), expressions[1].replace("LOAN", "$loan")));
        fills.add(Fill.repeat("r", field("crate"), "$loan/crate", "crate"));
        fills.add(Fill.wire("r1", field("crate") + "/{" + NS + "}no", "$crate/no"));
        fills.add(Fill.wire("r2", field("crate") + "/{" + NS + "}size", "$crate/size"));
        return fills;
    }

    private static String stylesheet(String[] expressions) {
        StringBuilder out = new StringBuilder(
                "<xsl:stylesheet version='3.0' xmlns:xsl='http://www.w3.org/1999/XSL/Transform' " + "xmlns:n1='" + NS
                        + "'><xsl:output omit-xml-declaration='yes' indent='no'/><xsl:template match='/loan'><n1:Book>");
        for (int i = 1; i <= 18; i++) {
            out.append("<n1:w" + i + "><xsl:value-of select='f" + i + "'/></n1:w" + i + ">");
        }
        for (int i = 1; i <= 3; i++) {
            out.append(
                    "<n1:n" + i + "><xsl:value-of select=\"translate(amount" + i + ", ',', '.')\"/></n1:n" + i + ">");
        }
        for (int i = 1; i <= 2; i++) {
            out.append("<n1:d" + i + "><xsl:value-of select=\"concat(substring(day" + i + ", 7, 4), '-', substring(day"
                    + i + ", 4, 2), '-', substring(day" + i + ", 1, 2))\"/></n1:d" + i + ">");
        }
        for (int i = 1; i <= 3; i++) {
            out.append("<n1:c" + i + ">HALEWICK " + i + "</n1:c" + i + ">");
        }
        return out + "<n1:e1><xsl:value-of select=\"" + expressions[0].replace("LOAN/", "") + "\"/></n1:e1>"
                + "<n1:e2><xsl:value-of select=\"" + expressions[1].replace("LOAN/", "") + "\"/></n1:e2>"
                + "<xsl:for-each select='crate'><n1:crate><n1:no><xsl:value-of select='no'/></n1:no><n1:size>"
                + "<xsl:value-of select='size'/></n1:size></n1:crate></xsl:for-each></n1:Book></xsl:template></xsl:stylesheet>";
    }

    private static String record(int n) {
        StringBuilder out = new StringBuilder("<loan>");
        for (int i = 1; i <= 18; i++) {
            out.append("<f" + i + ">Öderstad &amp; value " + i + " of " + n + "</f" + i + ">");
        }
        for (int i = 1; i <= 3; i++) {
            out.append("<amount" + i + ">" + (n * 7 + i) + ",5</amount" + i + ">");
        }
        out.append("<day1>0" + (1 + n % 9) + ".12.2026</day1><day2>1" + n % 9 + ".01.2027</day2>");
        for (int c = 1; c <= 3; c++) {
            out.append("<crate><no>HC-" + n + "-" + c + "</no><size>" + (100 + c) + "</size></crate>");
        }
        return out + "</loan>";
    }

    /** Runs the benchmark. */
    public static void main(String[] args) throws Exception {
        int records = args.length > 0 ? 4_000 : 1_000;
        int rounds = args.length > 0 ? 41 : 21;
        double[] seconds = measured(PLAIN, records, rounds);
        System.out.printf(
                Locale.ROOT,
                "mapping: %.0f records a second; compiled XSLT: %.0f; the same bytes%n",
                records / seconds[0],
                records / seconds[1]);
        double[] engine = measured(ENGINE, records, rounds);
        System.out.printf(
                Locale.ROOT,
                "with expressions that need the engine: %.0f records a second; compiled XSLT: %.0f; %.2f times as many%n",
                records / engine[0],
                records / engine[1],
                engine[1] / engine[0]);
        System.exit(Ratio.atLeast(seconds[1] / seconds[0], 3));
    }

    /** Returns the median seconds of ours and theirs. */
    private static double[] measured(String[] expressions, int records, int rounds) throws Exception {
        Contract contract =
                ContractReader.read(new GivenDocuments().add("b.wsdl", wsdl().getBytes(StandardCharsets.UTF_8)), true);
        FillPlan plan = FillPlan.compile(
                contract,
                contract.operations().get(0).operation().input(),
                null,
                fills(expressions),
                Set.of("loan"),
                new Expressions());
        Processor processor = new Processor(false);
        XsltExecutable xslt =
                processor.newXsltCompiler().compile(new StreamSource(new StringReader(stylesheet(expressions))));
        List<Node> ours = new ArrayList<>();
        List<XdmNode> theirs = new ArrayList<>();
        for (int n = 0; n < records; n++) {
            byte[] xml = record(n).getBytes(StandardCharsets.UTF_8);
            ours.add(NodeReader.read(new ByteArrayInputStream(xml), "loan", XmlLimits.MESSAGES));
            theirs.add(processor.newDocumentBuilder().build(new StreamSource(new ByteArrayInputStream(xml))));
        }
        for (int n : new int[] {0, records - 1}) {
            byte[] a = mapped(plan, ours.get(n));
            byte[] b = transformed(xslt, processor, theirs.get(n));
            if (!Arrays.equals(a, b)) {
                throw new AssertionError("not the same bytes:\n" + new String(a, StandardCharsets.UTF_8) + "\n"
                        + new String(b, StandardCharsets.UTF_8));
            }
        }
        long[] bytes = {0};
        return Ratio.medians(
                () -> {
                    for (Node node : ours) {
                        bytes[0] += mapped(plan, node).length;
                    }
                },
                () -> {
                    for (XdmNode node : theirs) {
                        bytes[0] += transformed(xslt, processor, node).length;
                    }
                },
                12,
                rounds);
    }

    private static byte[] mapped(FillPlan plan, Node node) {
        ByteOut out = new ByteOut();
        if (!plan.write(Scope.empty().with("loan", node), out).isEmpty()) {
            throw new AssertionError("the record does not map");
        }
        return out.bytes();
    }

    private static byte[] transformed(XsltExecutable xslt, Processor processor, XdmNode node) throws Exception {
        ByteArrayOutputStream out = new ByteArrayOutputStream(2048);
        Serializer serializer = processor.newSerializer(out);
        serializer.setOutputProperty(Serializer.Property.OMIT_XML_DECLARATION, "yes");
        Xslt30Transformer transformer = xslt.load30();
        transformer.applyTemplates(node, serializer);
        return out.toByteArray();
    }
}
