package wirekettle.core.record;

import com.fasterxml.jackson.core.JsonFactory;
import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.core.StreamReadConstraints;
import com.fasterxml.jackson.core.StreamReadFeature;
import com.fasterxml.jackson.databind.DeserializationFeature;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.json.JsonMapper;
import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.value.Column;
import wirekettle.core.value.JsonName;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeReader;
import wirekettle.core.value.ScalarType;
import wirekettle.core.value.XmlText;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/**
 * Reads what a caller sends into a record and holds it against its shape: JSON (RFC 8259) without duplicate members,
 * XML, or named texts, as of a query or a form. Safe for several threads.
 */
public final class InputReader {
    /** How deep a document may be nested. */
    public static final int DEEPEST = 100;

    private static final int MOST_PROBLEMS = 100;
    private static final XmlLimits XML =
            new XmlLimits(XmlLimits.MESSAGES.maxBytes(), DEEPEST, XmlLimits.MESSAGES.maxElements());
    private static final ObjectMapper JSON = JsonMapper.builder(JsonFactory.builder()
                    .enable(StreamReadFeature.STRICT_DUPLICATE_DETECTION)
                    .streamReadConstraints(StreamReadConstraints.builder()
                            .maxNestingDepth(DEEPEST)
                            .build())
                    .build())
            .enable(DeserializationFeature.FAIL_ON_TRAILING_TOKENS)
            .enable(DeserializationFeature.USE_BIG_DECIMAL_FOR_FLOATS)
            .build();

    /**
     * Something wrong with what was sent.
     *
     * @param pointer where, as a JSON pointer (RFC 6901)
     * @param message what, to be read behind the place
     */
    public record Problem(String pointer, String message) {}

    /** What is no document at all. */
    public static final class Unreadable extends Exception {
        Unreadable(String message) {
            super(message);
        }
    }

    private final PlaceTree shape;
    private final Name root;

    /**
     * Makes a reader.
     *
     * @param variable what the record is called
     */
    public InputReader(InputShape input, String variable) {
        this.shape = PlaceTree.of(input.columns(), input.lists());
        this.root = Name.of(variable);
    }

    /**
     * Reads a JSON document.
     *
     * @param beside fields of the first level that are given beside it, as in its address; nothing need be in it then
     * @param problems takes what is wrong with its values, 100 at most
     * @return the record, as far as it could be read
     * @throws Unreadable when it is no JSON, with the place
     */
    public Node json(byte[] body, Map<String, List<String>> beside, List<Problem> problems) throws Unreadable {
        JsonNode document = body.length == 0 && !beside.isEmpty() ? JSON.createObjectNode() : parsed(body);
        Node.Builder made = Node.build(root);
        object(shape, document, "", beside, made, problems);
        return made.done();
    }

    /**
     * Reads an XML document (XML 1.0): its fields are elements or attributes, of any namespace, in any order; a list is
     * its element several times. What the document element is called does not matter.
     *
     * @param beside fields of the first level that are given beside it
     * @param problems takes what is wrong with its values, 100 at most, each with the place it has as JSON
     * @return the record, as far as it could be read
     * @throws Unreadable when it is no well-formed XML, has a DTD, or passes a limit
     */
    public Node xml(byte[] body, Map<String, List<String>> beside, List<Problem> problems) throws Unreadable {
        try {
            Node document = NodeReader.read(new ByteArrayInputStream(body), "the request", XML);
            return InputXml.read(shape, document, beside, Node.build(root), problems);
        } catch (XmlProblem e) {
            throw new Unreadable(e.sentence());
        }
    }

    /** Returns a record that holds what was sent as text, for what cannot be read; what XML cannot hold is replaced. */
    public Node unread(String text) {
        StringBuilder fit = new StringBuilder(text);
        for (int at = XmlText.firstInvalid(text); at >= 0; at = XmlText.firstInvalid(fit.toString())) {
            fit.setCharAt(at, '\uFFFD');
        }
        return Node.build(root).text(fit).done();
    }

    private static JsonNode parsed(byte[] body) throws Unreadable {
        try {
            JsonNode read = JSON.readTree(body);
            if (read == null || read.isMissingNode()) {
                throw new Unreadable("there is nothing in it");
            }
            return read;
        } catch (JsonProcessingException e) {
            var at = e.getLocation();
            String message = String.valueOf(e.getOriginalMessage()).replaceFirst(" \\(start marker.*", "");
            throw new Unreadable(
                    at == null ? message : message + ", line " + at.getLineNr() + " column " + at.getColumnNr());
        } catch (IOException e) {
            throw new Unreadable(e.getMessage());
        }
    }

    /**
     * Reads named texts; each is a field of the first level.
     *
     * @param problems takes what is wrong with them
     */
    public Node texts(Map<String, List<String>> given, List<Problem> problems) {
        Node.Builder made = Node.build(root);
        Set<String> known = new HashSet<>();
        for (Map.Entry<String, PlaceTree> each : shape.children().entrySet()) {
            PlaceTree field = each.getValue();
            String member = JsonName.member(each.getKey());
            known.add(member);
            List<String> values = given.getOrDefault(member, List.of());
            if (values.isEmpty()) {
                field.required().forEach(place -> add(problems, place, "is missing"));
            } else {
                texts(each.getKey(), field, values, made, problems);
            }
        }
        unknown(given.keySet(), known, "", problems);
        return made.done();
    }

    /** Takes a field of the first level from texts. */
    static void texts(String name, PlaceTree field, List<String> values, Node.Builder made, List<Problem> problems) {
        String pointer = "/" + pointed(JsonName.member(name));
        if (field.column() == null) {
            add(problems, pointer, "has fields of its own: send it in a document");
            return;
        }
        if (values.size() > 1 && !field.repeats()) {
            add(problems, pointer, "is there " + values.size() + " times");
        }
        for (String value : values) {
            text(field, value, pointer, problems);
            made.add(name, value);
        }
    }

    private static void object(
            PlaceTree level,
            JsonNode given,
            String pointer,
            Map<String, List<String>> beside,
            Node.Builder made,
            List<Problem> problems) {
        if (!given.isObject()) {
            add(problems, pointer, "is " + said(given) + " where an object is expected");
            return;
        }
        Set<String> known = new HashSet<>();
        level.children().forEach((name, field) -> {
            String member = JsonName.member(name);
            known.add(member);
            JsonNode its = given.get(member);
            String at = pointer + "/" + pointed(member);
            if (beside.containsKey(member)) {
                if (its != null) {
                    add(problems, at, "is given beside the document already");
                }
                texts(name, field, beside.get(member), made, problems);
            } else if (its == null || its.isNull()) {
                field.required().forEach(place -> add(problems, pointer + place, "is missing"));
                if (its != null) {
                    made.add(Node.build(Name.of(name)).nil().done());
                }
            } else if (!field.repeats()) {
                made.add(one(name, field, its, at, problems));
            } else if (!its.isArray()) {
                add(problems, at, "is " + said(its) + " where an array is expected");
            } else {
                for (int i = 0; i < its.size(); i++) {
                    made.add(one(name, field, its.get(i), at + "/" + i, problems));
                }
            }
        });
        Set<String> there = new LinkedHashSet<>(beside.keySet());
        given.fieldNames().forEachRemaining(there::add);
        unknown(there, known, pointer, problems);
    }

    private static Node one(String name, PlaceTree field, JsonNode given, String pointer, List<Problem> problems) {
        Node.Builder made = Node.build(Name.of(name));
        if (field.column() == null) {
            object(field, given, pointer, Map.of(), made, problems);
        } else {
            String text = text(field, given, pointer, problems);
            if (text != null) {
                made.text(text);
            }
        }
        return made.done();
    }

    private static String text(PlaceTree field, JsonNode given, String pointer, List<Problem> problems) {
        ScalarType type = field.column().type();
        boolean number = type == ScalarType.INTEGER || type == ScalarType.DECIMAL;
        boolean fits = number ? given.isNumber() : type == ScalarType.BOOLEAN ? given.isBoolean() : given.isTextual();
        if (!fits) {
            String wanted = number ? "a number" : type == ScalarType.BOOLEAN ? "true or false" : "a text";
            add(problems, pointer, "is " + said(given) + " where " + wanted + " is expected");
            return null;
        }
        if (number && Math.abs(given.decimalValue().scale()) > 400) {
            add(problems, pointer, "is a number out of reach");
            return null;
        }
        String text = number ? given.decimalValue().toPlainString() : given.asText();
        text(field, text, pointer, problems);
        return text;
    }

    static void text(PlaceTree field, String text, String pointer, List<Problem> problems) {
        String wrong = ScalarCheck.problem(field.column().type(), text);
        if (wrong != null) {
            add(problems, pointer, wrong);
        } else if (text.isEmpty() && field.column().required()) {
            add(problems, pointer, "is empty");
        } else if (XmlText.firstInvalid(text) >= 0) {
            add(problems, pointer, "holds a character XML cannot carry");
        }
    }

    static void unknown(Collection<String> there, Set<String> known, String pointer, List<Problem> problems) {
        for (String name : there) {
            if (!known.contains(name)) {
                List<String> all = new ArrayList<>(known);
                all.sort(null);
                String some = String.join(", ", all.subList(0, Math.min(all.size(), 12)));
                add(problems, pointer + "/" + pointed(name), "is not known here; there are " + some);
            }
        }
    }

    static void add(List<Problem> problems, String pointer, String message) {
        if (problems.size() < MOST_PROBLEMS) {
            problems.add(new Problem(pointer, message));
        }
    }

    static String pointed(String member) {
        return member.replace("~", "~0").replace("/", "~1");
    }

    private static String said(JsonNode given) {
        return switch (given.getNodeType()) {
            case OBJECT -> "an object";
            case ARRAY -> "an array";
            case NUMBER -> "a number";
            case BOOLEAN -> "true or false";
            case NULL -> "null";
            default -> "a text";
        };
    }

    /** Tells whether every field stands on the first level and once: such a record can be typed into a form. */
    public static boolean flat(InputShape input) {
        return input.lists().isEmpty()
                && input.columns().stream().map(Column::name).noneMatch(name -> name.contains("/"));
    }
}
