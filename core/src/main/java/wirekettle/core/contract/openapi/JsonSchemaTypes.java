package wirekettle.core.contract.openapi;

import com.fasterxml.jackson.databind.JsonNode;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.contract.openapi.OpenApiDocument.Place;
import wirekettle.core.schema.XsdPattern;
import wirekettle.core.value.JsonName;
import wirekettle.core.value.JsonReader;
import wirekettle.core.value.XmlText;

/**
 * Writes what JSON Schema says (2020-12, and the dialect of OpenAPI 3.0) as XML Schema, so that sheets, examples,
 * checks and mappings are the same for both. An object is a sequence of its members in their order, an array a repeated
 * element.
 */
final class JsonSchemaTypes {
    private static final int DEEPEST = 60;

    private final OpenApiDocument documents;
    private final StringBuilder types = new StringBuilder();
    private final Map<String, String> named = new LinkedHashMap<>();
    private final Set<String> taken = new HashSet<>();
    private final Deque<Runnable> open = new ArrayDeque<>();

    JsonSchemaTypes(OpenApiDocument documents) {
        this.documents = documents;
    }

    /** Returns the named types that were needed so far, as text of XML Schema. */
    String types() {
        while (!open.isEmpty()) {
            open.poll().run();
        }
        return types.toString();
    }

    /** How often an element occurs, as attributes of its declaration. */
    static String occurs(boolean required, boolean repeats) {
        return (required ? "" : " minOccurs=\"0\"") + (repeats ? " maxOccurs=\"unbounded\"" : "");
    }

    /** Writes the declaration of a member: its element, repeated for an array. */
    void member(StringBuilder out, String name, Place schema, boolean required, int depth) {
        Place at = merged(schema);
        boolean array = type(at).equals("array");
        Place content = array ? items(at) : schema;
        boolean needed = required && (!array || at.node().path("minItems").asInt(0) > 0);
        element(out, JsonName.element(name), content, occurs(needed, array), nullable(at), depth);
    }

    private static Place items(Place array) {
        return array.at("items");
    }

    /** Writes an element with the type of a schema. */
    void element(StringBuilder out, String name, Place schema, String occurs, boolean nullable, int depth) {
        out.append("<xs:element name=\"").append(name).append('"').append(occurs);
        Place at = merged(schema);
        if (nullable || nullable(at)) {
            out.append(" nillable=\"true\"");
        }
        if (depth > DEEPEST) {
            out.append("/>");
            return;
        }
        String ref = schema.text("$ref");
        String said = documentation(schema, at);
        if (!ref.isEmpty() && type(at).equals("object")) {
            out.append(" type=\"").append(named(ref, at)).append('"');
            out.append(said.isEmpty() ? "/>" : ">" + said + "</xs:element>");
            return;
        }
        String kind = type(at);
        if (kind.isEmpty()) {
            out.append(said.isEmpty() ? "/>" : ">" + said + "</xs:element>");
            return;
        }
        out.append('>').append(said);
        if (kind.equals("object")) {
            out.append("<xs:complexType>");
            content(out, at, depth);
            out.append("</xs:complexType>");
        } else if (kind.equals("array")) {
            out.append("<xs:complexType><xs:sequence>");
            element(out, JsonReader.ITEM, items(at), occurs(false, true), false, depth + 1);
            out.append("</xs:sequence></xs:complexType>");
        } else {
            simple(out, at, kind);
        }
        out.append("</xs:element>");
    }

    /** The document an object stands in is part of its identity: two files may use one name. */
    private String named(String ref, Place at) {
        String key = at.document() + "#" + at.pointer();
        String known = named.get(key);
        if (known == null) {
            String last = JsonName.element(ref.substring(Math.max(ref.lastIndexOf('/'), ref.lastIndexOf('#')) + 1)
                    .replaceAll("\\.(json|ya?ml)$", ""));
            known = last.isEmpty() ? "Type" : last;
            for (int i = 2; !taken.add(known); i++) {
                known = last + i;
            }
            named.put(key, known);
            String name = known;
            open.add(() -> {
                types.append("<xs:complexType name=\"").append(name).append("\">");
                types.append(documentation(at, at));
                StringBuilder inside = new StringBuilder();
                content(inside, at, 1);
                types.append(inside).append("</xs:complexType>");
            });
        }
        return known;
    }

    private void content(StringBuilder out, Place object, int depth) {
        boolean text = object.node().path("xml").path("x-text").asBoolean(false);
        out.append(text ? "<xs:simpleContent><xs:extension base=\"xs:string\">" : "<xs:sequence>");
        Set<String> required = new HashSet<>();
        object.node().path("required").forEach(name -> required.add(name.asText()));
        StringBuilder attributes = new StringBuilder();
        object.node().path("properties").fieldNames().forEachRemaining(name -> {
            Place member = object.at("properties").at(name);
            if (member.node().path("xml").path("attribute").asBoolean(false)) {
                String base = builtIn(type(member), member.text("format"), member.node());
                attributes.append("<xs:attribute name=\"").append(JsonName.element(name));
                attributes.append("\" type=\"xs:").append(base).append("\"/>");
            } else if (!text) {
                member(out, name, member, required.contains(name), depth + 1);
            }
        });
        JsonNode more = object.node().path("additionalProperties");
        boolean map = more.isObject() || more.asBoolean(false);
        if (!text && (map || object.node().path("properties").isEmpty())) {
            out.append("<xs:any minOccurs=\"0\" maxOccurs=\"unbounded\" processContents=\"lax\"/>");
        }
        out.append(text ? "" : "</xs:sequence>").append(attributes);
        out.append(text ? "</xs:extension></xs:simpleContent>" : "");
    }

    private void simple(StringBuilder out, Place at, String kind) {
        String base = builtIn(kind, at.text("format"), at.node());
        StringBuilder facets = new StringBuilder();
        JsonNode node = at.node();
        boolean text = base.equals("string");
        if (node.has("const")) {
            facet(facets, "enumeration", node.get("const").asText());
        }
        node.path("enum").forEach(value -> {
            if (!value.isNull()) {
                facet(facets, "enumeration", value.asText());
            }
        });
        if (text) {
            number(facets, node, "minLength", "minLength");
            number(facets, node, "maxLength", "maxLength");
            pattern(facets, node.path("pattern").asText(""));
        }
        if (kind.equals("integer") || kind.equals("number")) {
            boolean openBelow = node.path("exclusiveMinimum").asBoolean(false);
            boolean openAbove = node.path("exclusiveMaximum").asBoolean(false);
            number(facets, node, "minimum", openBelow ? "minExclusive" : "minInclusive");
            number(facets, node, "maximum", openAbove ? "maxExclusive" : "maxInclusive");
            if (node.path("exclusiveMinimum").isNumber() && !node.has("minimum")) {
                number(facets, node, "exclusiveMinimum", "minExclusive");
            }
            if (node.path("exclusiveMaximum").isNumber() && !node.has("maximum")) {
                number(facets, node, "exclusiveMaximum", "maxExclusive");
            }
        }
        out.append("<xs:simpleType><xs:restriction base=\"xs:").append(base).append("\">");
        out.append(facets).append("</xs:restriction></xs:simpleType>");
    }

    private static void facet(StringBuilder out, String name, String value) {
        out.append("<xs:")
                .append(name)
                .append(" value=\"")
                .append(XmlText.attribute(value))
                .append("\"/>");
    }

    private static void number(StringBuilder out, JsonNode node, String member, String facet) {
        if (node.path(member).isNumber()) {
            facet(out, facet, node.get(member).decimalValue().toPlainString());
        }
    }

    /** Takes over a pattern both dialects read alike: JSON's looks for a part, XML Schema's means the whole value. */
    private static void pattern(StringBuilder out, String pattern) {
        if (pattern.isEmpty() || pattern.contains("(?") || pattern.contains("\\b")) {
            return;
        }
        String whole =
                (pattern.startsWith("^") ? pattern.substring(1) : ".*" + pattern).replaceAll("(?<!\\\\)\\$$", "");
        whole = pattern.endsWith("$") && !pattern.endsWith("\\$") ? whole : whole + ".*";
        if (XsdPattern.of(whole) != null) {
            facet(out, "pattern", whole);
        }
    }

    private static String builtIn(String kind, String format, JsonNode node) {
        return switch (kind) {
            case "integer" -> format.equals("int32") ? "int" : format.equals("int64") ? "long" : "integer";
            case "number" -> "decimal";
            case "boolean" -> "boolean";
            default -> node.has("enum")
                    ? "string"
                    : switch (format) {
                        case "date" -> "date";
                        case "date-time" -> "dateTime";
                        case "byte" -> "base64Binary";
                        default -> "string";
                    };
        };
    }

    private static String documentation(Place first, Place second) {
        String text = first.text("description").isEmpty() ? second.text("description") : first.text("description");
        text = text.isEmpty() ? second.text("title") : text;
        return text.isEmpty()
                ? ""
                : "<xs:annotation><xs:documentation>" + XmlText.escape(text) + "</xs:documentation></xs:annotation>";
    }

    /** Returns object, array, string, integer, number or boolean; empty for what may be anything. */
    static String type(Place at) {
        JsonNode type = at.node().path("type");
        String name = "";
        if (type.isArray()) {
            for (JsonNode each : type) {
                name = each.asText().equals("null") ? name : name.isEmpty() ? each.asText() : "several";
            }
        } else {
            name = type.asText("");
        }
        if (name.isEmpty()) {
            name = at.node().has("properties")
                    ? "object"
                    : at.node().has("items") ? "array" : at.node().has("enum") ? "string" : "";
        }
        return name.equals("several") || name.equals("null") ? "" : name;
    }

    private static boolean nullable(Place at) {
        if (at.node().path("nullable").asBoolean(false)) {
            return true;
        }
        for (JsonNode each : at.node().path("type")) {
            if (each.asText().equals("null")) {
                return true;
            }
        }
        return false;
    }

    /** Follows references and takes the parts of allOf, oneOf and anyOf together. */
    Place merged(Place schema) {
        return merged(schema, 0);
    }

    private Place merged(Place schema, int depth) {
        Place at = documents.resolved(schema);
        List<Place> parts = new ArrayList<>();
        for (String how : List.of("allOf", "oneOf", "anyOf")) {
            for (int i = 0; i < at.node().path(how).size(); i++) {
                parts.add(at.at(how).at(i));
            }
        }
        if (parts.isEmpty() || depth > DEEPEST) {
            return at;
        }
        var together = ((com.fasterxml.jackson.databind.node.ObjectNode) at.node()).deepCopy();
        together.remove(List.of("allOf", "oneOf", "anyOf"));
        boolean all = at.node().has("allOf");
        List<Place> real = new ArrayList<>();
        for (Place part : parts) {
            Place read = merged(part, depth + 1);
            if (read.text("type").equals("null")) {
                together.put("nullable", true);
            } else {
                real.add(read);
            }
        }
        if (!all && real.size() > 1) {
            documents.problem(
                    at,
                    "alternatives",
                    "one of " + real.size() + " shapes: their fields are shown together, all optional");
        }
        for (Place part : real) {
            join(together, part.node(), all || real.size() == 1);
        }
        return new Place(together, at.document(), at.pointer());
    }

    private static void join(com.fasterxml.jackson.databind.node.ObjectNode into, JsonNode part, boolean keepRequired) {
        part.fields().forEachRemaining(entry -> {
            String name = entry.getKey();
            if (name.equals("properties")) {
                var properties = into.withObjectProperty("properties");
                entry.getValue().fields().forEachRemaining(p -> {
                    if (!properties.has(p.getKey())) {
                        properties.set(p.getKey(), p.getValue());
                    }
                });
            } else if (name.equals("required")) {
                if (keepRequired) {
                    var required = into.withArrayProperty("required");
                    entry.getValue().forEach(required::add);
                }
            } else if (!into.has(name)) {
                into.set(name, entry.getValue());
            }
        });
    }
}
