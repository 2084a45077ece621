package wirekettle.benchmarks;

import java.io.ByteArrayInputStream;
import java.nio.charset.StandardCharsets;
import java.util.Locale;
import javax.xml.parsers.DocumentBuilderFactory;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.ContractReader;
import wirekettle.core.contract.GivenDocuments;

/** Importing a contract of 10,000 types in 30 files, against parsing the same bytes into a DOM. */
public final class ImportBenchmark {
    private static final int FILES = 30;
    private static final int TYPES = 10_000;

    private ImportBenchmark() {}

    static GivenDocuments generated(int types, int files) {
        GivenDocuments given = new GivenDocuments();
        StringBuilder wsdl = new StringBuilder(
                "<definitions name='Large' targetNamespace='urn:large' "
                        + "xmlns='http://schemas.xmlsoap.org/wsdl/' xmlns:soap='http://schemas.xmlsoap.org/wsdl/soap/' "
                        + "xmlns:t='urn:large' xmlns:s0='urn:large:0' xmlns:xs='http://www.w3.org/2001/XMLSchema'><types><xs:schema>");
        for (int f = 0; f < files; f++) {
            wsdl.append("<xs:import namespace='urn:large:")
                    .append(f)
                    .append("' schemaLocation='part-")
                    .append(f)
                    .append(".xsd'/>");
            given.add("part-" + f + ".xsd", part(f, files, types / files + (f < types % files ? 1 : 0)));
        }
        wsdl.append("</xs:schema></types><message name='In'><part name='p' element='s0:Ask'/></message>"
                + "<portType name='P'><operation name='Ask'><input message='t:In'/></operation></portType>"
                + "<binding name='B' type='t:P'><soap:binding transport='http://schemas.xmlsoap.org/soap/http'/>"
                + "<operation name='Ask'><soap:operation soapAction=''/><input><soap:body use='literal'/></input></operation>"
                + "</binding><service name='Large'><port name='L' binding='t:B'><soap:address location='http://large.invalid'/>"
                + "</port></service></definitions>");
        GivenDocuments all =
                new GivenDocuments().add("large.wsdl", wsdl.toString().getBytes(StandardCharsets.UTF_8));
        given.files().forEach(all::add);
        return all;
    }

    private static byte[] part(int file, int files, int types) {
        int next = (file + 1) % files;
        StringBuilder xsd =
                new StringBuilder("<xs:schema xmlns:xs='http://www.w3.org/2001/XMLSchema' targetNamespace='urn:large:"
                        + file + "' xmlns:o='urn:large:" + file + "' xmlns:n='urn:large:" + next
                        + "' elementFormDefault='qualified'>"
                        + "<xs:import namespace='urn:large:" + next + "' schemaLocation='part-" + next + ".xsd'/>"
                        + "<xs:element name='Ask' type='o:Crate0'/>");
        for (int t = 0; t < types; t++) {
            if (t % 4 == 3) {
                xsd.append("<xs:simpleType name='Code")
                        .append(t)
                        .append(
                                "'><xs:restriction base='xs:string'>"
                                        + "<xs:maxLength value='20'/><xs:enumeration value='A'/><xs:enumeration value='B'/></xs:restriction></xs:simpleType>");
            } else {
                xsd.append("<xs:complexType name='Crate")
                        .append(t)
                        .append("'><xs:annotation><xs:documentation>A crate of kind ")
                        .append(t)
                        .append(
                                " with its measures.</xs:documentation></xs:annotation><xs:sequence>"
                                        + "<xs:element name='label' type='xs:string'/><xs:element name='grossWeight' type='xs:decimal' minOccurs='0'/>"
                                        + "<xs:element name='packedOn' type='xs:date' minOccurs='0'/><xs:element name='inner' type='n:Crate0' minOccurs='0' maxOccurs='unbounded'/>"
                                        + "</xs:sequence><xs:attribute name='no' type='xs:int' use='required'/></xs:complexType>");
            }
        }
        return xsd.append("</xs:schema>").toString().getBytes(StandardCharsets.UTF_8);
    }

    /** Runs the benchmark. */
    public static void main(String[] args) throws Exception {
        GivenDocuments given = generated(TYPES, FILES);
        long bytes = given.files().values().stream().mapToLong(b -> b.length).sum();
        DocumentBuilderFactory factory = DocumentBuilderFactory.newDefaultInstance();
        factory.setNamespaceAware(true);
        int[] types = {0};
        double[] seconds = Ratio.medians(
                () -> {
                    Contract contract = ContractReader.read(given, true);
                    types[0] = contract.schemas().typeCount();
                },
                () -> {
                    for (byte[] document : given.files().values()) {
                        factory.newDocumentBuilder().parse(new ByteArrayInputStream(document));
                    }
                },
                5,
                args.length > 0 ? 41 : 15);
        System.out.printf(
                Locale.ROOT,
                "import of %d types, %d files, %.1f MB: %.0f ms; DOM parse of the same bytes: %.0f ms%n",
                types[0],
                given.files().size(),
                bytes / 1e6,
                seconds[0] * 1000,
                seconds[1] * 1000);
        System.exit(Ratio.atMost(seconds[0] / seconds[1], 4));
    }
}
