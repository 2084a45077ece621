package wirekettle.core.value;

import com.fasterxml.jackson.core.JsonFactory;
import com.fasterxml.jackson.core.JsonGenerator;
import java.io.IOException;
import java.io.StringWriter;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Function;

/** Writes a tree as JSON (RFC 8259) when the kind of every place in it is known. */
public final class JsonText {
    private static final JsonFactory FACTORY = new JsonFactory();

    /** What stands at a place. */
    public enum Kind {
        /** A text. */
        TEXT,
        /** A number; an empty one is null. */
        NUMBER,
        /** True or false; an empty one is null. */
        BOOLEAN,
        /** Named values. */
        OBJECT,
        /** An array of texts. */
        TEXTS,
        /** An array of numbers. */
        NUMBERS,
        /** An array of true and false. */
        BOOLEANS,
        /** An array of objects. */
        OBJECTS;

        /** Returns the array of it. */
        public Kind several() {
            return ordinal() < 4 ? values()[ordinal() + 4] : this;
        }

        private boolean array() {
            return ordinal() >= 4;
        }

        private Kind item() {
            return values()[ordinal() % 4];
        }
    }

    private JsonText() {}

    /** Returns the text of a document; {@code kind} is asked for the kind of a place as {@code crates/no}. */
    public static String of(Node document, Function<String, Kind> kind) {
        StringWriter out = new StringWriter();
        try (JsonGenerator json = FACTORY.createGenerator(out)) {
            object(json, document, "", kind);
        } catch (IOException e) {
            throw new IllegalStateException("memory cannot fail to be written", e);
        }
        return out.toString();
    }

    private static void object(JsonGenerator json, Node node, String place, Function<String, Kind> kind)
            throws IOException {
        Map<String, List<Node>> members = new LinkedHashMap<>();
        for (Node child : node.children()) {
            members.computeIfAbsent(child.name().local(), k -> new ArrayList<>())
                    .add(child);
        }
        json.writeStartObject();
        for (Map.Entry<String, List<Node>> member : members.entrySet()) {
            String path = place.isEmpty() ? member.getKey() : place + "/" + member.getKey();
            Kind its = kind.apply(path);
            json.writeFieldName(member.getKey());
            if (its.array()) {
                json.writeStartArray();
            }
            for (Node each : member.getValue()) {
                value(json, each, path, its.item(), kind);
            }
            if (its.array()) {
                json.writeEndArray();
            }
        }
        json.writeEndObject();
    }

    private static void value(JsonGenerator json, Node node, String path, Kind its, Function<String, Kind> kind)
            throws IOException {
        String text = node.text().strip();
        switch (its) {
            case OBJECT -> object(json, node, path, kind);
            case NUMBER -> {
                if (text.matches("-?(0|[1-9]\\d*)(\\.\\d+)?")) {
                    json.writeNumber(text);
                } else if (text.isEmpty()) {
                    json.writeNull();
                } else {
                    json.writeString(text);
                }
            }
            case BOOLEAN -> {
                if (text.isEmpty()) {
                    json.writeNull();
                } else {
                    json.writeBoolean(text.equals("true") || text.equals("1"));
                }
            }
            default -> json.writeString(node.text());
        }
    }
}
