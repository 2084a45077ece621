package wirekettle.core.schema;

import java.nio.charset.StandardCharsets;
import java.util.List;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeReader;
import wirekettle.core.xml.XmlElement;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;
import wirekettle.core.xml.XmlTree;

/**
 * What rpc/encoded contracts take for granted (SOAP 1.1, 5): the array type and the simple types that may carry an
 * {@code id} or {@code href}. Contracts import this namespace without bringing its schema along.
 */
public final class SoapEncoding {
    /** The namespace of the SOAP 1.1 encoding. */
    public static final String NAMESPACE = NodeReader.SOAP_ENCODING;

    private static final String WSDL = "http://schemas.xmlsoap.org/wsdl/";

    private SoapEncoding() {}

    /** Returns the schema, as if it were a document of the contract. */
    public static SchemaDocument schema() {
        StringBuilder text = new StringBuilder("<xs:schema xmlns:xs='" + BuiltIn.XSD + "' xmlns:e='" + NAMESPACE
                + "' targetNamespace='" + NAMESPACE + "' elementFormDefault='qualified'>"
                + "<xs:attribute name='arrayType' type='xs:string'/><xs:attribute name='offset' type='xs:string'/>"
                + "<xs:attribute name='position' type='xs:string'/><xs:attribute name='root' type='xs:boolean'/>"
                + "<xs:complexType name='Array'><xs:sequence><xs:any namespace='##any' minOccurs='0'"
                + " maxOccurs='unbounded' processContents='lax'/></xs:sequence>"
                + "<xs:anyAttribute namespace='##any' processContents='lax'/></xs:complexType>"
                + "<xs:element name='Array' type='e:Array'/>"
                + "<xs:complexType name='Struct'><xs:sequence><xs:any namespace='##any' minOccurs='0'"
                + " maxOccurs='unbounded' processContents='lax'/></xs:sequence>"
                + "<xs:anyAttribute namespace='##any' processContents='lax'/></xs:complexType>"
                + "<xs:simpleType name='base64'><xs:restriction base='xs:base64Binary'/></xs:simpleType>");
        for (String name : BuiltIn.names()) {
            text.append("<xs:complexType name='").append(name).append("'><xs:simpleContent><xs:extension base='xs:");
            text.append(name).append("'><xs:anyAttribute namespace='##any' processContents='lax'/>");
            text.append("</xs:extension></xs:simpleContent></xs:complexType>");
        }
        String whole = text + "</xs:schema>";
        try {
            String name = "SOAP encoding (built in)";
            return new SchemaDocument(
                    XmlTree.read(whole.getBytes(StandardCharsets.UTF_8), name, XmlLimits.DOCUMENTS), name, NAMESPACE);
        } catch (XmlProblem e) {
            throw new IllegalStateException(e);
        }
    }

    /** Returns a body element that says how it is encoded (SOAP 1.1, 4.1.1). */
    public static Node marked(Node body) {
        Node.Builder marked = Node.build(body.name()).text(body.text()).type(body.type());
        marked.attribute(new Name("http://schemas.xmlsoap.org/soap/envelope/", "encodingStyle"), NAMESPACE);
        body.attributes().forEach(a -> marked.attribute(a.name(), a.text()));
        body.children().forEach(marked::add);
        return marked.done();
    }

    /** Returns the value of the attribute by which a contract names the items of an array (WSDL 1.1, 2.2), or null. */
    static String arrayType(XmlElement attribute) {
        return attribute.attribute(WSDL, "arrayType");
    }

    static boolean isArray(TypeUse base) {
        return base != null && new Name(NAMESPACE, "Array").equals(base.name());
    }

    /** Returns the content of an array of a type, as the sheet shows it: items of any number. */
    static Particle items(Name type) {
        ElementDecl item = ElementDecl.of(Name.of("item"), TypeUse.named(type));
        return new Particle.Group(Particle.Kind.SEQUENCE, List.of(new Particle.Element(item, 0, -1)), 1, 1);
    }

    /** Returns the type of the only element of a content that is spelt out, any when there is no such thing. */
    static Name onlyItem(Particle content) {
        boolean one = content instanceof Particle.Group group && group.parts().size() == 1;
        if (one && ((Particle.Group) content).parts().get(0) instanceof Particle.Element item) {
            Name type = item.declaration().type().name();
            return type == null ? TypeUse.ANY.name() : type;
        }
        return TypeUse.ANY.name();
    }
}
