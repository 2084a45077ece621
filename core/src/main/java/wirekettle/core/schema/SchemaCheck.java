package wirekettle.core.schema;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.Reader;
import java.io.StringReader;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import javax.xml.XMLConstants;
import javax.xml.transform.Source;
import javax.xml.transform.dom.DOMSource;
import javax.xml.transform.stream.StreamSource;
import javax.xml.validation.Schema;
import javax.xml.validation.SchemaFactory;
import javax.xml.validation.Validator;
import org.w3c.dom.ls.LSInput;
import org.w3c.dom.ls.LSResourceResolver;
import org.xml.sax.ErrorHandler;
import org.xml.sax.SAXException;
import org.xml.sax.SAXParseException;
import wirekettle.core.value.Name;

/**
 * The JDK's own validator over a contract's schemas: one driver schema imports one including schema per namespace, so
 * order, circles and several schemas of one namespace do not matter. An independent judge of messages we build.
 */
public final class SchemaCheck {
    private final Schema schema;
    private final String unusable;

    private SchemaCheck(Schema schema, String unusable) {
        this.schema = schema;
        this.unusable = unusable;
    }

    private static final int MOST_IN_GROUP = 100_000;
    private static final String TOO_DEEP = "their types lead too deep into each other for the validator";

    /**
     * Builds the validator. What it finds wrong with the schemas beyond the repairs already made is kept, and what it
     * can use of them is used.
     *
     * @param documents the schemas
     * @param extra elements made up for rpc bodies, declared beside them
     * @param set the components as they were read, with their repairs
     */
    public static SchemaCheck of(List<SchemaDocument> documents, List<ElementDecl> extra, SchemaSet set) {
        List<String> problems = new ArrayList<>();
        if (GroupSize.largest(set) > MOST_IN_GROUP) {
            return new SchemaCheck(null, "a group grows beyond " + MOST_IN_GROUP + " elements by the groups in it");
        }
        try {
            Map<String, String> texts = new Driver(documents, extra, set).texts();
            SchemaFactory factory = SchemaFactory.newDefaultInstance();
            factory.setProperty(XMLConstants.ACCESS_EXTERNAL_DTD, "");
            factory.setProperty(XMLConstants.ACCESS_EXTERNAL_SCHEMA, "ns,part");
            factory.setResourceResolver(new FromMemory(texts));
            factory.setErrorHandler(new Collect(problems));
            Schema schema = factory.newSchema(new StreamSource(new StringReader(texts.get("ns:driver"))));
            return new SchemaCheck(schema, problems.isEmpty() ? null : problems.get(0));
        } catch (SAXException e) {
            return new SchemaCheck(null, problems.isEmpty() ? e.getMessage() : problems.get(0));
        } catch (StackOverflowError e) {
            return new SchemaCheck(null, TOO_DEEP);
        }
    }

    /** Returns the first thing a strict reader finds wrong with the schemas themselves, or null when they are fine. */
    public String unusable() {
        return unusable;
    }

    /** Returns what is wrong with a message, one sentence each; empty when it is valid. */
    public List<String> problems(byte[] message) {
        return problems(new StreamSource(new ByteArrayInputStream(message)));
    }

    /** Returns what is wrong with one element of a message. */
    public List<String> problems(org.w3c.dom.Element element) {
        return problems(new DOMSource(element));
    }

    private List<String> problems(Source message) {
        if (schema == null) {
            return List.of("the schemas cannot be used: " + unusable);
        }
        List<String> problems = new ArrayList<>();
        Validator validator = schema.newValidator();
        validator.setErrorHandler(new Collect(problems));
        try {
            validator.setProperty(XMLConstants.ACCESS_EXTERNAL_DTD, "");
            validator.validate(message);
        } catch (SAXException | IOException e) {
            if (problems.isEmpty()) {
                problems.add(String.valueOf(e.getMessage()));
            }
        } catch (StackOverflowError e) {
            return List.of("the schemas cannot be used: " + TOO_DEEP);
        }
        return problems;
    }

    private record Collect(List<String> problems) implements ErrorHandler {
        @Override
        public void warning(SAXParseException e) {
            // warnings do not make a message invalid
        }

        @Override
        public void error(SAXParseException e) {
            problems.add(e.getMessage());
        }

        @Override
        public void fatalError(SAXParseException e) {
            problems.add(e.getMessage());
        }
    }

    /** Writes the schemas again, each as a part of its namespace. */
    private static final class Driver {
        private final List<SchemaDocument> documents;
        private final List<ElementDecl> extra;
        private final SchemaSet set;
        private final Map<String, String> ids = new LinkedHashMap<>();
        private final Map<String, String> texts = new HashMap<>();
        private final Set<String> defined = new HashSet<>();

        Driver(List<SchemaDocument> documents, List<ElementDecl> extra, SchemaSet set) {
            this.documents = documents;
            this.extra = extra;
            this.set = set;
        }

        Map<String, String> texts() {
            Set<String> namespaces = new TreeSet<>();
            documents.forEach(d -> namespaces.add(d.targetNamespace()));
            extra.forEach(e -> namespaces.add(e.name().namespace()));
            namespaces.forEach(n -> ids.put(n, "ns:" + ids.size()));
            StringBuilder driver = new StringBuilder(open("urn:wirekettle:driver"));
            ids.forEach((namespace, id) -> driver.append(importOf(namespace, id)));
            texts.put("ns:driver", driver + "</xs:schema>");
            ids.forEach((namespace, id) -> texts.put(id, including(namespace)));
            texts.putIfAbsent("ns:xml", XML);
            return texts;
        }

        private static String open(String namespace) {
            return "<xs:schema xmlns:xs=\"" + BuiltIn.XSD + "\""
                    + (namespace.isEmpty() ? "" : " targetNamespace=\"" + SchemaText.attribute(namespace) + "\"") + ">";
        }

        private static String importOf(String namespace, String id) {
            return "<xs:import" + (namespace.isEmpty() ? "" : " namespace=\"" + SchemaText.attribute(namespace) + "\"")
                    + " schemaLocation=\"" + id + "\"/>";
        }

        private String including(String namespace) {
            StringBuilder out = new StringBuilder(open(namespace));
            for (int i = 0; i < documents.size(); i++) {
                SchemaDocument document = documents.get(i);
                if (document.targetNamespace().equals(namespace)) {
                    texts.put("part:" + i, part(document));
                    out.append("<xs:include schemaLocation=\"part:").append(i).append("\"/>");
                }
            }
            Map<Name, List<ElementDecl>> made = new LinkedHashMap<>();
            for (ElementDecl each : extra) {
                if (each.name().namespace().equals(namespace) && !defined.contains("element " + each.name())) {
                    made.computeIfAbsent(each.name(), n -> new ArrayList<>()).add(each);
                }
            }
            if (!made.isEmpty()) {
                texts.put("part:extra-" + ids.get(namespace), extraPart(namespace, made));
                out.append("<xs:include schemaLocation=\"part:extra-")
                        .append(ids.get(namespace))
                        .append("\"/>");
            }
            return out + "</xs:schema>";
        }

        private String imports(String own) {
            StringBuilder out = new StringBuilder();
            ids.forEach((namespace, id) -> {
                if (!namespace.equals(own)) {
                    out.append(importOf(namespace, id));
                }
            });
            return out + (ids.containsKey(XML_NAMESPACE) ? "" : importOf(XML_NAMESPACE, "ns:xml"));
        }

        private String part(SchemaDocument document) {
            return SchemaText.write(document, imports(document.targetNamespace()), set, defined);
        }

        private String extraPart(String namespace, Map<Name, List<ElementDecl>> made) {
            StringBuilder out = new StringBuilder(open(namespace)).append(imports(namespace));
            made.forEach((name, all) -> {
                if (all.get(0).type().inline() instanceof ComplexType) {
                    wrapper(name, all, out);
                } else {
                    out.append("<xs:element name=\"").append(name.local());
                    type(all.get(0), out);
                }
            });
            return out + "</xs:schema>";
        }

        /** Writes what stands around rpc parts; overloaded operations share one wrapper, in which all may be absent. */
        private void wrapper(Name name, List<ElementDecl> all, StringBuilder out) {
            Map<Name, ElementDecl> accessors = new LinkedHashMap<>();
            boolean differ = false;
            for (ElementDecl each : all) {
                Particle.Group group =
                        (Particle.Group) ((ComplexType) each.type().inline()).content();
                for (Particle part : group.parts()) {
                    ElementDecl accessor = ((Particle.Element) part).declaration();
                    ElementDecl before = accessors.putIfAbsent(accessor.name(), accessor);
                    differ |= each != all.get(0) && before == null;
                }
                differ |= group.parts().size() != accessors.size();
            }
            out.append("<xs:element name=\"").append(name.local()).append("\"><xs:complexType><xs:sequence>");
            for (ElementDecl accessor : accessors.values()) {
                out.append("<xs:element form=\"unqualified\" nillable=\"true\"")
                        .append(differ ? " minOccurs=\"0\"" : "");
                out.append(" name=\"").append(accessor.name().local());
                type(accessor, out);
            }
            out.append("</xs:sequence><xs:anyAttribute namespace=\"##other\" processContents=\"lax\"/>");
            out.append("</xs:complexType></xs:element>");
        }

        private void type(ElementDecl element, StringBuilder out) {
            Name name = known(element.type().name());
            boolean bare = name.namespace().isEmpty();
            out.append("\" type=\"").append(bare ? "" : "t:").append(name.local());
            out.append(bare ? "\" xmlns=\"" : "\" xmlns:t=\"").append(SchemaText.attribute(name.namespace()));
            out.append("\"/>");
        }

        private Name known(Name type) {
            boolean builtIn = type != null && type.namespace().equals(BuiltIn.XSD);
            return type == null || !builtIn && !set.types.containsKey(type)
                    ? TypeUse.ANY.name()
                    : set.defined("type", type);
        }
    }

    private static final String XML_NAMESPACE = "http://www.w3.org/XML/1998/namespace";
    private static final String XML = "<xs:schema xmlns:xs=\"" + BuiltIn.XSD
            + "\" targetNamespace=\"" + XML_NAMESPACE + "\">"
            + "<xs:attribute name=\"lang\" type=\"xs:string\"/><xs:attribute name=\"space\" type=\"xs:NCName\"/>"
            + "<xs:attribute name=\"base\" type=\"xs:anyURI\"/><xs:attribute name=\"id\" type=\"xs:ID\"/></xs:schema>";

    private record FromMemory(Map<String, String> texts) implements LSResourceResolver {
        @Override
        public LSInput resolveResource(String type, String namespace, String publicId, String systemId, String base) {
            String text = systemId == null ? null : texts.get(systemId);
            return new Input(
                    systemId, text == null ? Driver.open(namespace == null ? "" : namespace) + "</xs:schema>" : text);
        }
    }

    private record Input(String id, String text) implements LSInput {
        @Override
        public Reader getCharacterStream() {
            return new StringReader(text);
        }

        @Override
        public void setCharacterStream(Reader reader) {}

        @Override
        public InputStream getByteStream() {
            return null;
        }

        @Override
        public void setByteStream(InputStream in) {}

        @Override
        public String getStringData() {
            return text;
        }

        @Override
        public void setStringData(String data) {}

        @Override
        public String getSystemId() {
            return id;
        }

        @Override
        public void setSystemId(String systemId) {}

        @Override
        public String getPublicId() {
            return null;
        }

        @Override
        public void setPublicId(String publicId) {}

        @Override
        public String getBaseURI() {
            return null;
        }

        @Override
        public void setBaseURI(String base) {}

        @Override
        public String getEncoding() {
            return null;
        }

        @Override
        public void setEncoding(String encoding) {}

        @Override
        public boolean getCertifiedText() {
            return false;
        }

        @Override
        public void setCertifiedText(boolean certified) {}
    }
}
