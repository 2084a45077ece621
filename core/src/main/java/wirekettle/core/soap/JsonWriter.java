package wirekettle.core.soap;

import com.fasterxml.jackson.core.JsonFactory;
import com.fasterxml.jackson.core.JsonGenerator;
import com.fasterxml.jackson.core.JsonParser;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.schema.SheetField;
import wirekettle.core.value.JsonName;
import wirekettle.core.value.JsonReader;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.xml.XmlProblem;

/**
 * Writes a tree as JSON (RFC 8259) the way its sheet says: what repeats is an array, numbers and booleans are written
 * bare, nil is null. Where the sheet says nothing the tree itself decides.
 */
public final class JsonWriter {
    private static final JsonFactory FACTORY = new JsonFactory();

    private JsonWriter() {}

    /** Returns the text of a value; field null means that nothing is known about it. */
    public static byte[] write(Node node, SheetField field, boolean indented) {
        return write(List.of(node), field, false, indented);
    }

    /** Returns the text of an array of values. */
    static byte[] writeAll(List<Node> items, SheetField field, boolean indented) {
        return write(items, field, true, indented);
    }

    private static byte[] write(List<Node> nodes, SheetField field, boolean array, boolean indented) {
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        try (JsonGenerator json = FACTORY.createGenerator(out)) {
            if (indented) {
                json.useDefaultPrettyPrinter();
            }
            if (array) {
                json.writeStartArray();
            }
            for (Node node : nodes) {
                value(json, node, field);
            }
            if (array) {
                json.writeEndArray();
            }
        } catch (IOException e) {
            throw new IllegalStateException("memory cannot fail to be written", e);
        }
        return out.toByteArray();
    }

    /** Returns JSON indented, values as they were written; throws when it is none. */
    static byte[] indented(byte[] text) throws XmlProblem {
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        try (JsonParser parser = FACTORY.createParser(text);
                JsonGenerator json = FACTORY.createGenerator(out)) {
            json.useDefaultPrettyPrinter();
            while (parser.nextToken() != null) {
                if (parser.currentToken().isNumeric()) {
                    json.writeNumber(parser.getText());
                } else {
                    json.copyCurrentEvent(parser);
                }
            }
        } catch (IOException e) {
            throw new XmlProblem("not-json", e.getMessage(), "message", 0, 0);
        }
        return out.toByteArray();
    }

    /** Returns the field of a child, null when nothing is known about it. */
    static SheetField child(SheetField field, Name name) {
        return field == null
                ? null
                : field.children().stream()
                        .filter(each -> each.name().equals(name))
                        .findFirst()
                        .orElse(null);
    }

    private static void value(JsonGenerator json, Node node, SheetField field) throws IOException {
        if (node.nil()) {
            json.writeNull();
            return;
        }
        List<SheetField> known = field == null ? List.of() : field.children();
        boolean items = known.size() == 1
                && known.get(0).name().local().equals(JsonReader.ITEM)
                && known.get(0).max() != 1;
        if (items) {
            json.writeStartArray();
            for (Node item : node.children()) {
                value(json, item, known.get(0));
            }
            json.writeEndArray();
        } else if (!node.children().isEmpty() || field != null && field.rule() == null && !known.isEmpty()) {
            object(json, node, field);
        } else {
            scalar(json, node.text(), field);
        }
    }

    private static void object(JsonGenerator json, Node node, SheetField field) throws IOException {
        Map<String, List<Node>> members = new LinkedHashMap<>();
        for (Node child : node.children()) {
            members.computeIfAbsent(child.name().local(), k -> new java.util.ArrayList<>())
                    .add(child);
        }
        json.writeStartObject();
        for (Map.Entry<String, List<Node>> member : members.entrySet()) {
            List<Node> values = member.getValue();
            SheetField its = child(field, values.get(0).name());
            json.writeFieldName(JsonName.member(member.getKey()));
            boolean array = values.size() > 1 || its != null && its.max() != 1;
            if (array) {
                json.writeStartArray();
            }
            for (Node value : values) {
                value(json, value, its);
            }
            if (array) {
                json.writeEndArray();
            }
        }
        json.writeEndObject();
    }

    private static void scalar(JsonGenerator json, String text, SheetField field) throws IOException {
        String type = field == null || field.rule() == null || field.rule().builtIn() == null
                ? "string"
                : field.rule().builtIn().name();
        String bare = text.strip();
        switch (type) {
            case "boolean" -> {
                if (bare.equals("true") || bare.equals("1")) {
                    json.writeBoolean(true);
                } else if (bare.equals("false") || bare.equals("0")) {
                    json.writeBoolean(false);
                } else {
                    json.writeString(text);
                }
            }
            case "decimal", "integer", "int", "long", "short", "byte", "double", "float" -> {
                // a number as JSON writes it: no plus sign, no leading zero (RFC 8259, 6)
                String number = bare.replaceFirst("^\\+", "").replaceFirst("^(-?)0+(?=\\d)", "$1");
                number = number.replaceFirst("^(-?)\\.", "$10.").replaceFirst("\\.$", "");
                if (number.matches("-?\\d+(\\.\\d+)?([eE][+-]?\\d+)?")) {
                    json.writeNumber(number);
                } else {
                    json.writeString(text);
                }
            }
            default -> json.writeString(text);
        }
    }
}
