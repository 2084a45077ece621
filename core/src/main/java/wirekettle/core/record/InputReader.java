package wirekettle.core.record;

import com.fasterxml.jackson.core.JsonFactory;
import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.core.StreamReadConstraints;
import com.fasterxml.jackson.core.StreamReadFeature;
import com.fasterxml.jackson.databind.DeserializationFeature;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.json.JsonMapper;
import java.io.IOException;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.value.Column;
import wirekettle.core.value.JsonName;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.ScalarType;
import wirekettle.core.value.XmlText;

/**
 * Reads what a caller sends into a record and holds it against its shape: JSON (RFC 8259) without duplicate members,
 * or named texts, as of a query or a form. Safe for several threads.
 */
public final class InputReader {
    /** How deep a document may be nested. */
    public static final int DEEPEST = 100;

    private static final int MOST_PROBLEMS = 100;
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
     * @param problems takes what is wrong with its values, 100 at most
     * @return the record, as far as it could be read
     * @throws Unreadable when it is no JSON, with the place
     */
    public Node json(byte[] body, List<Problem> problems) throws Unreadable {
        JsonNode document = parsed(body);
        Node.Builder made = Node.build(root);
        object(shape, document, "", made, problems);
        return made.done();
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
            if (field.column() == null) {
                if (!values.isEmpty()) {
                    add(problems, "/" + pointed(member), "has fields of its own: send it in a JSON document");
                }
                field.required().forEach(place -> add(problems, place, "is missing"));
                continue;
            }
            if (values.isEmpty() && field.column().required()) {
                add(problems, "/" + pointed(member), "is missing");
            } else if (values.size() > 1 && !field.repeats()) {
                add(problems, "/" + pointed(member), "is there " + values.size() + " times");
            }
            for (String value : values) {
                text(field, value, "/" + pointed(member), problems);
                made.add(each.getKey(), value);
            }
        }
        unknown(given.keySet(), known, "", problems);
        return made.done();
    }

    private static void object(
            PlaceTree level, JsonNode given, String pointer, Node.Builder made, List<Problem> problems) {
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
            if (its == null || its.isNull()) {
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
        Set<String> there = new HashSet<>();
        given.fieldNames().forEachRemaining(there::add);
        unknown(there, known, pointer, problems);
    }

    private static Node one(String name, PlaceTree field, JsonNode given, String pointer, List<Problem> problems) {
        Node.Builder made = Node.build(Name.of(name));
        if (field.column() == null) {
            object(field, given, pointer, made, problems);
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

    private static void text(PlaceTree field, String text, String pointer, List<Problem> problems) {
        String wrong = ScalarCheck.problem(field.column().type(), text);
        if (wrong != null) {
            add(problems, pointer, wrong);
        } else if (text.isEmpty() && field.column().required()) {
            add(problems, pointer, "is empty");
        } else if (XmlText.firstInvalid(text) >= 0) {
            add(problems, pointer, "holds a character XML cannot carry");
        }
    }

    private static void unknown(Collection<String> there, Set<String> known, String pointer, List<Problem> problems) {
        for (String name : there) {
            if (!known.contains(name)) {
                List<String> all = new ArrayList<>(known);
                all.sort(null);
                String some = String.join(", ", all.subList(0, Math.min(all.size(), 12)));
                add(problems, pointer + "/" + pointed(name), "is not known here; there are " + some);
            }
        }
    }

    private static void add(List<Problem> problems, String pointer, String message) {
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
