package wirekettle.core.contract.openapi;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.dataformat.yaml.YAMLFactory;
import com.fasterxml.jackson.dataformat.yaml.YAMLMapper;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.BinaryOperator;
import java.util.regex.Pattern;
import org.yaml.snakeyaml.LoaderOptions;
import wirekettle.core.contract.ContractDocument;
import wirekettle.core.contract.DocumentSource;
import wirekettle.core.xml.Finding;
import wirekettle.core.xml.XmlProblem;

/** The documents of one description, and what their references mean (OpenAPI 3.1, 4.8.23; RFC 6901). */
final class OpenApiDocument {
    private static final Pattern YAML = Pattern.compile("(?m)^[\"']?(openapi|swagger)[\"']?\\s*:");
    private static final int MOST_BYTES = 32 << 20;
    private static final int LONGEST_CHAIN = 40;
    private static final ObjectMapper JSON = new ObjectMapper();
    private static final ObjectMapper YAML_MAPPER = yaml();

    private final String entry;
    private final DocumentSource source;
    private final BinaryOperator<String> resolve;
    private final List<Finding> findings;
    private final Map<String, JsonNode> roots = new LinkedHashMap<>();
    final Map<String, ContractDocument> documents = new LinkedHashMap<>();
    final Map<String, String> unavailable = new LinkedHashMap<>();

    private static ObjectMapper yaml() {
        LoaderOptions options = new LoaderOptions();
        options.setCodePointLimit(MOST_BYTES);
        options.setMaxAliasesForCollections(200);
        options.setNestingDepthLimit(400);
        return new YAMLMapper(YAMLFactory.builder().loaderOptions(options).build());
    }

    /** A place in one of the documents: what stands there, and in which document its own references begin. */
    record Place(JsonNode node, String document, String pointer) {
        Place at(String member) {
            return new Place(
                    node.path(member),
                    document,
                    pointer + "/" + member.replace("~", "~0").replace("/", "~1"));
        }

        Place at(int index) {
            return new Place(node.path(index), document, pointer + "/" + index);
        }

        boolean there() {
            return !node.isMissingNode() && !node.isNull();
        }

        String text(String member) {
            return node.path(member).asText("");
        }
    }

    OpenApiDocument(String entry, DocumentSource source, BinaryOperator<String> resolve, List<Finding> findings) {
        this.entry = entry;
        this.source = source;
        this.resolve = resolve;
        this.findings = findings;
    }

    /** Tells whether a document is meant as OpenAPI or its predecessor, as JSON or YAML. */
    static boolean looksLike(byte[] bytes) {
        String start = new String(bytes, 0, Math.min(bytes.length, 20_000), StandardCharsets.UTF_8).strip();
        return start.startsWith("{")
                ? start.contains("\"openapi\"") || start.contains("\"swagger\"")
                : !start.startsWith("<") && YAML.matcher(start).find();
    }

    Place root() throws IOException, XmlProblem {
        return new Place(load(entry), entry, "");
    }

    private JsonNode load(String name) throws IOException, XmlProblem {
        JsonNode known = roots.get(name);
        if (known != null) {
            return known;
        }
        byte[] bytes = source.load(name);
        documents.put(name, new ContractDocument(name, bytes));
        try {
            String start = new String(bytes, 0, Math.min(bytes.length, 200), StandardCharsets.UTF_8).strip();
            JsonNode root = (start.startsWith("{") ? JSON : YAML_MAPPER).readTree(bytes);
            if (root == null || !root.isObject()) {
                throw new XmlProblem("not-a-description", "the document holds no object", name, 1, 1);
            }
            roots.put(name, root);
            return root;
        } catch (JsonProcessingException e) {
            var at = e.getLocation();
            throw new XmlProblem(
                    "not-well-formed",
                    "neither JSON nor YAML can be read here: "
                            + e.getOriginalMessage().lines().findFirst().orElse(""),
                    name,
                    at == null ? 1 : at.getLineNr(),
                    at == null ? 1 : at.getColumnNr());
        }
    }

    /** Follows a reference until something that is none; a reference that leads nowhere is a finding. */
    Place resolved(Place from) {
        Place at = from;
        for (int i = 0; i < LONGEST_CHAIN && at.node().has("$ref"); i++) {
            Place next = target(at);
            if (next == null || !next.there()) {
                problem(at, "unresolved", "the reference " + at.text("$ref") + " leads nowhere; it is shown as any");
                return new Place(JSON.createObjectNode(), at.document(), at.pointer());
            }
            at = next;
        }
        return at;
    }

    private Place target(Place from) {
        String ref = from.text("$ref");
        int hash = ref.indexOf('#');
        String file = hash < 0 ? ref : ref.substring(0, hash);
        String pointer = hash < 0 ? "" : ref.substring(hash + 1);
        String document = file.isEmpty() ? from.document() : resolve.apply(from.document(), file);
        try {
            JsonNode root = load(document);
            return new Place(root.at(decoded(pointer)), document, pointer);
        } catch (IOException e) {
            unavailable.put(document, String.valueOf(e.getMessage()));
            return null;
        } catch (XmlProblem e) {
            findings.add(Finding.of(e));
            return null;
        } catch (IllegalArgumentException e) {
            return null;
        }
    }

    private static String decoded(String pointer) {
        return java.net.URLDecoder.decode(pointer.replace("+", "%2B"), StandardCharsets.UTF_8);
    }

    void problem(Place at, String code, String message) {
        boolean known = findings.stream()
                .anyMatch(f -> f.code().equals(code) && f.message().equals(message));
        if (!known) {
            findings.add(new Finding(
                    Finding.Severity.WARNING, code, at.pointer() + ": " + message, at.document(), line(at), 1));
        }
    }

    /** The line of the last member of a pointer, as near as the text tells; 1 when it cannot be found. */
    private int line(Place at) {
        ContractDocument document = documents.get(at.document());
        if (document == null) {
            return 1;
        }
        String text = new String(document.bytes(), StandardCharsets.UTF_8);
        int from = 0;
        for (String member : at.pointer().split("/")) {
            String plain = member.replace("~1", "/").replace("~0", "~");
            int found = plain.isEmpty() || plain.matches("\\d+") ? -1 : text.indexOf(plain, from);
            from = found < 0 ? from : found;
        }
        return (int) text.substring(0, from).chars().filter(c -> c == '\n').count() + 1;
    }
}
