package wirekettle.demo;

import java.nio.charset.StandardCharsets;
import wirekettle.core.contract.GivenDocuments;

/**
 * A made-up contract as large as one likes: the catalogue of everything Halewick ever crated. Its types form one tree
 * over many files that import each other, so that its message has several fields for every type; two hundred derived
 * types can be picked for its remark.
 */
public final class LargeContract {
    private static final String[] ADJECTIVES = {
        "Gilded", "Carved", "Painted", "Folded", "Woven", "Bound", "Cast", "Blown", "Turned", "Inlaid"
    };
    private static final String[] NOUNS = {
        "Frame", "Globe", "Viola", "Clock", "Vase", "Chart", "Orrery", "Screen", "Casket", "Figure", "Tapestry", "Model"
    };
    private static final int REMARKS = 200;

    private LargeContract() {}

    /**
     * Returns the documents, the WSDL first.
     *
     * @param types how many named types, at least 400
     * @param files how many schema files
     * @param words how many words of documentation a type has
     */
    public static GivenDocuments documents(int types, int files, int words) {
        StringBuilder[] parts = new StringBuilder[files];
        for (int f = 0; f < files; f++) {
            parts[f] = new StringBuilder("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<xs:schema")
                    .append(" xmlns:xs=\"http://www.w3.org/2001/XMLSchema\" targetNamespace=\"urn:halewick:catalogue:")
                    .append(f)
                    .append("\" elementFormDefault=\"qualified\"");
            for (int other = 0; other < files; other++) {
                parts[f].append("\n xmlns:p").append(other).append("=\"urn:halewick:catalogue:");
                parts[f].append(other).append('"');
            }
            parts[f].append(">\n");
            for (int other = 0; other < files; other++) {
                if (other != f) {
                    parts[f].append("<xs:import namespace=\"urn:halewick:catalogue:")
                            .append(other);
                    parts[f].append("\" schemaLocation=\"part-").append(other).append(".xsd\"/>\n");
                }
            }
        }
        parts[0].append("<xs:element name=\"DescribeObject\"><xs:complexType><xs:sequence>\n")
                .append("<xs:element name=\"object\" type=\"p0:")
                .append(name(0))
                .append("\"/>\n")
                .append("<xs:element name=\"remark\" type=\"p0:Remark\" minOccurs=\"0\" maxOccurs=\"unbounded\"/>\n")
                .append("</xs:sequence></xs:complexType></xs:element>\n")
                .append("<xs:element name=\"DescribeObjectResponse\" type=\"xs:string\"/>\n")
                .append("<xs:complexType name=\"Remark\" abstract=\"true\"><xs:sequence>")
                .append("<xs:element name=\"written\" type=\"xs:date\"/></xs:sequence></xs:complexType>\n");
        int kinds = types - REMARKS - 1;
        for (int t = 0; t < kinds; t++) {
            kind(parts[t % files], t, kinds, files, words);
        }
        for (int r = 0; r < REMARKS; r++) {
            remark(parts[r % files], r);
        }
        GivenDocuments all = new GivenDocuments().add("catalogue.wsdl", wsdl(files));
        for (int f = 0; f < files; f++) {
            all.add(
                    "part-" + f + ".xsd",
                    parts[f].append("</xs:schema>\n").toString().getBytes(StandardCharsets.UTF_8));
        }
        return all;
    }

    private static String name(int type) {
        return ADJECTIVES[type % ADJECTIVES.length] + NOUNS[type / ADJECTIVES.length % NOUNS.length] + type;
    }

    private static void kind(StringBuilder out, int type, int kinds, int files, int words) {
        if (type % 4 == 3) {
            // a quarter are lists of values, leaves of the tree
            out.append("<xs:simpleType name=\"").append(name(type)).append("\">");
            documentation(out, type, words);
            out.append(
                            "<xs:restriction base=\"xs:string\"><xs:maxLength value=\"20\"/><xs:enumeration value=\"whole\"/>")
                    .append("<xs:enumeration value=\"mended\"/><xs:enumeration value=\"in parts\"/></xs:restriction>")
                    .append("</xs:simpleType>\n");
            return;
        }
        out.append("<xs:complexType name=\"").append(name(type)).append("\">");
        documentation(out, type, words);
        out.append("<xs:sequence><xs:element name=\"label\" type=\"xs:string\"/>")
                .append("<xs:element name=\"heightCentimetres\" type=\"xs:decimal\" minOccurs=\"0\"/>")
                .append("<xs:element name=\"packedOn\" type=\"xs:date\" minOccurs=\"0\"/>\n");
        for (int child = 4 * type + 1; child <= 4 * type + 4 && child < kinds; child++) {
            String local = name(child);
            out.append("<xs:element name=\"")
                    .append(Character.toLowerCase(local.charAt(0)))
                    .append(local, 1, local.length());
            out.append("\" type=\"p")
                    .append(child % files)
                    .append(':')
                    .append(local)
                    .append("\" minOccurs=\"0\"/>\n");
        }
        out.append("</xs:sequence><xs:attribute name=\"number\" type=\"xs:int\" use=\"required\"/></xs:complexType>\n");
    }

    private static void documentation(StringBuilder out, int type, int words) {
        out.append("<xs:annotation><xs:documentation>Number ").append(type).append(" of the catalogue");
        for (int w = 0; w < words; w++) {
            out.append(' ').append((ADJECTIVES[(type + w) % ADJECTIVES.length]).toLowerCase(java.util.Locale.ROOT));
        }
        out.append(".</xs:documentation></xs:annotation>");
    }

    private static void remark(StringBuilder out, int remark) {
        out.append("<xs:complexType name=\"")
                .append(NOUNS[remark % NOUNS.length])
                .append("Remark")
                .append(remark);
        out.append("\"><xs:complexContent><xs:extension base=\"p0:Remark\"><xs:sequence><xs:element name=\"text")
                .append(remark)
                .append("\" type=\"xs:string\"/></xs:sequence></xs:extension></xs:complexContent></xs:complexType>\n");
    }

    private static byte[] wsdl(int files) {
        StringBuilder out = new StringBuilder(
                "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<definitions name=\"Catalogue\""
                        + " targetNamespace=\"urn:halewick:catalogue\" xmlns=\"http://schemas.xmlsoap.org/wsdl/\""
                        + " xmlns:soap=\"http://schemas.xmlsoap.org/wsdl/soap/\" xmlns:t=\"urn:halewick:catalogue\""
                        + " xmlns:p0=\"urn:halewick:catalogue:0\" xmlns:xs=\"http://www.w3.org/2001/XMLSchema\">\n<types><xs:schema>");
        for (int f = 0; f < files; f++) {
            out.append("<xs:import namespace=\"urn:halewick:catalogue:").append(f);
            out.append("\" schemaLocation=\"part-").append(f).append(".xsd\"/>\n");
        }
        return out.append(
                        "</xs:schema></types>\n<message name=\"In\"><part name=\"body\" element=\"p0:DescribeObject\"/></message>"
                                + "<message name=\"Out\"><part name=\"body\" element=\"p0:DescribeObjectResponse\"/></message>\n"
                                + "<portType name=\"Type\"><operation name=\"DescribeObject\"><input message=\"t:In\"/><output message=\"t:Out\"/>"
                                + "</operation></portType>\n<binding name=\"Soap\" type=\"t:Type\"><soap:binding"
                                + " transport=\"http://schemas.xmlsoap.org/soap/http\"/><operation name=\"DescribeObject\"><soap:operation"
                                + " soapAction=\"urn:describe\"/><input><soap:body use=\"literal\"/></input><output><soap:body use=\"literal\"/>"
                                + "</output></operation></binding>\n<service name=\"Catalogue\"><port name=\"CataloguePort\" binding=\"t:Soap\">"
                                + "<soap:address location=\"http://catalogue.invalid/\"/></port></service></definitions>\n")
                .toString()
                .getBytes(StandardCharsets.UTF_8);
    }
}
