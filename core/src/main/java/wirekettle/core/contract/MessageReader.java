package wirekettle.core.contract;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import wirekettle.core.contract.WsdlIndex.Part;
import wirekettle.core.contract.WsdlIndex.Placed;
import wirekettle.core.schema.ComplexType;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.schema.Particle;
import wirekettle.core.schema.SchemaSet;
import wirekettle.core.schema.TypeUse;
import wirekettle.core.value.Name;
import wirekettle.core.xml.Finding.Severity;
import wirekettle.core.xml.XmlElement;

/** Makes messages of their parts and of what the binding does with them (WSDL 1.1, 3.5 to 3.7, 4 and 5). */
final class MessageReader {
    private static final String MIME = "http://schemas.xmlsoap.org/wsdl/mime/";

    private final WsdlIndex index;
    private final SchemaSet schemas;

    MessageReader(WsdlIndex index, SchemaSet schemas) {
        this.index = index;
        this.schemas = schemas;
    }

    /** What the binding says about one direction of an operation. */
    private final class Bound {
        final Placed place;
        final SoapVersion version;
        final List<Placed> headers = new ArrayList<>();
        final List<Message.Attachment> attachments = new ArrayList<>();
        final Set<String> beside = new HashSet<>();
        Placed body;

        Bound(Placed place, SoapVersion version) {
            this.place = place;
            this.version = version;
            if (place != null && version != null) {
                read(place);
                for (XmlElement related : place.node().children(MIME, "multipartRelated")) {
                    for (XmlElement part : related.children(MIME, "part")) {
                        read(place.at(part));
                    }
                }
            }
        }

        private void read(Placed from) {
            for (XmlElement child : from.node().children()) {
                boolean soap = child.name().namespace().equals(version.binding());
                if (soap && child.local().equals("body")) {
                    body = from.at(child);
                } else if (soap && child.local().equals("header")) {
                    headers.add(from.at(child));
                } else if (child.name().namespace().equals(MIME)
                        && child.local().equals("content")) {
                    attach(child);
                }
            }
        }

        private void attach(XmlElement content) {
            String part = content.attribute("part") == null ? "" : content.attribute("part");
            String type = content.attribute("type") == null ? "*/*" : content.attribute("type");
            beside.add(part);
            for (int i = 0; i < attachments.size(); i++) {
                if (attachments.get(i).part().equals(part)) {
                    List<String> types = new ArrayList<>(attachments.get(i).types());
                    types.add(type);
                    attachments.set(i, new Message.Attachment(part, List.copyOf(types)));
                    return;
                }
            }
            attachments.add(new Message.Attachment(part, List.of(type)));
        }

        String attribute(String local) {
            return body == null ? null : body.node().attribute(local);
        }
    }

    /** Tells whether the body of a direction is encoded. */
    String use(Placed boundDirection, SoapVersion version) {
        String use = new Bound(boundDirection, version).attribute("use");
        return use == null ? "literal" : use.strip();
    }

    /**
     * Returns a message of an operation.
     *
     * @param direction the input, output or fault of the port type's operation
     * @param boundDirection the same of the binding, or null
     * @param wrapper the local name of the element rpc makes up around the parts
     */
    Message soap(Placed direction, Placed boundDirection, SoapVersion version, String style, String wrapper) {
        Placed message = index.message(direction, direction.node().attribute("message"));
        if (message == null) {
            return Message.EMPTY;
        }
        Bound bound = new Bound(boundDirection, version);
        boolean encoded = "encoded".equals(bound.attribute("use"));
        List<ElementDecl> headers = new ArrayList<>();
        List<ElementDecl> headerFaults = new ArrayList<>();
        Set<String> elsewhere = new HashSet<>(bound.beside);
        for (Placed header : bound.headers) {
            headers.addAll(header(header, message, elsewhere));
            for (XmlElement fault : header.node().children(version.binding(), "headerfault")) {
                headerFaults.addAll(header(header.at(fault), message, new HashSet<>()));
            }
        }
        String only = bound.attribute("parts");
        Set<String> chosen = only == null ? null : Set.of(only.strip().split("\\s+"));
        List<Part> inBody = index.parts(message).stream()
                .filter(p -> chosen == null ? !elsewhere.contains(p.name()) : chosen.contains(p.name()))
                .filter(p -> !bound.beside.contains(p.name()))
                .toList();
        List<ElementDecl> body = style.equals("rpc")
                ? List.of(wrapper(new Name(orEmpty(bound.attribute("namespace")), wrapper), inBody))
                : inBody.stream().map(part -> element(part, true)).toList();
        return new Message(
                WsdlIndex.named(message.node()),
                headers,
                body,
                encoded,
                headerFaults,
                List.copyOf(bound.attachments),
                documentation(direction, message));
    }

    /** Returns the message of a fault: its detail elements; a part by type stands under the part's name. */
    Message fault(Placed direction, boolean encoded) {
        Placed message = index.message(direction, direction.node().attribute("message"));
        if (message == null) {
            return Message.EMPTY;
        }
        List<ElementDecl> body =
                index.parts(message).stream().map(part -> element(part, false)).toList();
        return new Message(
                WsdlIndex.named(message.node()),
                List.of(),
                body,
                encoded,
                List.of(),
                List.of(),
                documentation(direction, message));
    }

    /** Returns the request of an HTTP operation: its parts as the children of one element. */
    Message httpInput(Placed direction, String operation) {
        Placed message = index.message(direction, direction.node().attribute("message"));
        if (message == null) {
            return Message.EMPTY;
        }
        ElementDecl root = wrapper(Name.of(operation), index.parts(message));
        return new Message(WsdlIndex.named(message.node()), List.of(), List.of(root));
    }

    /** Returns the reply of an HTTP operation: the element of its part, or one of the part's name holding the text. */
    Message httpOutput(Placed direction) {
        Placed message = index.message(direction, direction.node().attribute("message"));
        if (message == null) {
            return Message.EMPTY;
        }
        List<ElementDecl> body = index.parts(message).stream()
                .limit(1)
                .map(part -> element(part, false))
                .toList();
        return new Message(WsdlIndex.named(message.node()), List.of(), body);
    }

    private static String documentation(Placed direction, Placed message) {
        String own = WsdlIndex.documentation(direction.node());
        return own.isEmpty() ? WsdlIndex.documentation(message.node()) : own;
    }

    private static String orEmpty(String text) {
        return text == null ? "" : text.strip();
    }

    private List<ElementDecl> header(Placed header, Placed message, Set<String> elsewhere) {
        Placed from = index.message(header, header.node().attribute("message"));
        String wanted = orEmpty(header.node().attribute("part"));
        for (Part part : from == null ? List.<Part>of() : index.parts(from)) {
            if (part.name().equals(wanted)) {
                if (from.node() == message.node()) {
                    elsewhere.add(wanted);
                }
                if (part.element() == null && part.type() != null) {
                    Name name = new Name(orEmpty(header.node().attribute("namespace")), part.name());
                    return List.of(ElementDecl.of(name, TypeUse.named(part.type())));
                }
                return List.of(element(part, true));
            }
        }
        if (from != null) {
            index.note(
                    header,
                    Severity.ERROR,
                    "unresolved-part",
                    "the header's message has no part “" + wanted + "”; the header is left out");
        }
        return List.of();
    }

    private ElementDecl wrapper(Name name, List<Part> parts) {
        List<Particle> accessors = new ArrayList<>();
        for (Part part : parts) {
            TypeUse type = part.type() != null
                    ? TypeUse.named(part.type())
                    : part.element() != null ? element(part, false).type() : TypeUse.ANY;
            checkType(part);
            ElementDecl accessor =
                    new ElementDecl(Name.of(part.name()), type, false, false, null, null, null, part.documentation());
            accessors.add(new Particle.Element(accessor, 1, 1));
        }
        return ElementDecl.of(name, new TypeUse(null, ComplexType.sequence(accessors)));
    }

    private void checkType(Part part) {
        if (part.type() != null
                && !part.type().namespace().equals(wirekettle.core.schema.BuiltIn.XSD)
                && schemas.type(TypeUse.named(part.type())) == null) {
            index.note(
                    part.place(),
                    Severity.ERROR,
                    "unresolved-type",
                    "type " + part.type() + " is used by part " + part.name()
                            + " but not defined in any document; it is shown as any");
        }
    }

    private ElementDecl element(Part part, boolean oddByType) {
        if (part.element() != null) {
            ElementDecl found = schemas.element(part.element());
            if (found != null) {
                return found;
            }
            if (part.element().namespace().equals(wirekettle.core.schema.BuiltIn.XSD)) {
                return ElementDecl.of(Name.of(part.name()), TypeUse.named(part.element()));
            }
            ElementDecl near = near(part);
            return near == null ? ElementDecl.of(part.element(), TypeUse.ANY) : near;
        }
        if (part.type() != null) {
            checkType(part);
            if (oddByType) {
                index.note(
                        part.place(),
                        Severity.WARNING,
                        "part-by-type",
                        "part " + part.name() + " of a document message names a type, not an element; an element of"
                                + " the part's name is used");
            }
            return ElementDecl.of(Name.of(part.name()), TypeUse.named(part.type()));
        }
        index.note(
                part.place(),
                Severity.ERROR,
                "part-empty",
                "part " + part.name() + " names neither element nor type; it is shown as any");
        return ElementDecl.of(Name.of(part.name()), TypeUse.ANY);
    }

    private ElementDecl near(Part part) {
        List<ElementDecl> all = schemas.elements();
        List<ElementDecl> near = all.stream()
                .filter(e -> e.name().namespace().equals(part.element().namespace())
                        && e.name().local().equalsIgnoreCase(part.element().local()))
                .toList();
        boolean inCase = near.size() == 1;
        if (!inCase) {
            near = all.stream()
                    .filter(e -> e.name().local().equals(part.element().local()))
                    .toList();
        }
        if (near.size() == 1) {
            index.note(
                    part.place(),
                    Severity.WARNING,
                    inCase ? "differs-in-case" : "other-namespace",
                    "element " + part.element() + " is not defined, but "
                            + near.get(0).name() + " is"
                            + (inCase ? ", which differs only in case" : ", the only one of that name")
                            + "; it is used");
            return near.get(0);
        }
        index.note(
                part.place(),
                Severity.ERROR,
                "unresolved-element",
                "element " + part.element() + " is used by part " + part.name()
                        + " but not defined in any document; it is shown as any");
        return null;
    }

    /** Returns the first content type an HTTP binding names for a direction, empty for XML or none. */
    static String contentType(Placed boundDirection) {
        XmlElement content =
                boundDirection == null ? null : boundDirection.node().child(MIME, "content");
        return content == null ? "" : orEmpty(content.attribute("type"));
    }
}
