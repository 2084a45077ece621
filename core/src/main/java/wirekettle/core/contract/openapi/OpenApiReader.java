package wirekettle.core.contract.openapi;

import com.fasterxml.jackson.databind.JsonNode;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.BinaryOperator;
import wirekettle.core.contract.Advice;
import wirekettle.core.contract.ContractDocument;
import wirekettle.core.contract.ContractRefused;
import wirekettle.core.contract.DocumentSource;
import wirekettle.core.contract.Effect;
import wirekettle.core.contract.HttpBinding;
import wirekettle.core.contract.HttpBinding.Described;
import wirekettle.core.contract.Message;
import wirekettle.core.contract.Operation;
import wirekettle.core.contract.OperationKind;
import wirekettle.core.contract.Port;
import wirekettle.core.contract.Service;
import wirekettle.core.contract.openapi.OpenApiDocument.Place;
import wirekettle.core.schema.SchemaDocument;
import wirekettle.core.schema.SchemaReader;
import wirekettle.core.schema.SchemaSet;
import wirekettle.core.value.JsonName;
import wirekettle.core.value.Name;
import wirekettle.core.xml.Finding;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;
import wirekettle.core.xml.XmlTree;

/** Reads OpenAPI 3.0 and 3.1, as JSON or YAML, into services, operations and schemas. */
public final class OpenApiReader {
    /** What the child of a request is called that holds its body. */
    public static final String BODY = "body";

    private static final List<String> METHODS = List.of("get", "put", "post", "delete", "patch", "head", "options");

    private final OpenApiDocument documents;
    private final List<Finding> findings;
    private final JsonSchemaTypes types;
    private final StringBuilder elements = new StringBuilder();
    private final Set<String> taken = new HashSet<>();

    /** One operation while its schema is not read yet: the names of its messages' elements. */
    private record Draft(
            String name,
            String verb,
            String path,
            Described described,
            String input,
            String output,
            Map<String, String> faults,
            String documentation) {}

    /** What a description holds. */
    public record Read(
            List<Service> services,
            SchemaSet schemas,
            List<SchemaDocument> schemaDocuments,
            List<ContractDocument> documents,
            Map<String, String> unavailable) {}

    private OpenApiReader(OpenApiDocument documents, List<Finding> findings) {
        this.documents = documents;
        this.findings = findings;
        this.types = new JsonSchemaTypes(documents);
    }

    /** Tells whether a document is meant as OpenAPI. */
    public static boolean looksLike(byte[] document) {
        return OpenApiDocument.looksLike(document);
    }

    /**
     * Reads a description.
     *
     * @param resolve makes a document's name of another one's and a reference in it
     * @throws ContractRefused when it is none, or of a version that is not read
     */
    public static Read read(String entry, DocumentSource source, BinaryOperator<String> resolve, List<Finding> findings)
            throws ContractRefused {
        OpenApiDocument documents = new OpenApiDocument(entry, source, resolve, findings);
        try {
            return new OpenApiReader(documents, findings).read(documents.root());
        } catch (XmlProblem e) {
            findings.add(Finding.of(e));
            throw new ContractRefused(findings);
        } catch (IOException e) {
            findings.add(new Finding(Finding.Severity.ERROR, "not-available", e.getMessage(), entry, 0, 0));
            throw new ContractRefused(findings);
        }
    }

    private Read read(Place root) throws ContractRefused, XmlProblem {
        String version = root.text("openapi");
        if (!version.startsWith("3.")) {
            String what = root.node().has("swagger") ? "Swagger " + root.text("swagger") : "OpenAPI " + version;
            findings.add(new Finding(
                    Finding.Severity.ERROR,
                    "openapi-version",
                    "this is " + what + "; only OpenAPI 3 is read: ask the service for that",
                    root.document(),
                    1,
                    1));
            throw new ContractRefused(findings);
        }
        List<Draft> drafts = new ArrayList<>();
        Place paths = root.at("paths");
        paths.node().fieldNames().forEachRemaining(path -> {
            Place item = documents.resolved(paths.at(path));
            for (String method : METHODS) {
                if (item.node().has(method)) {
                    drafts.add(draft(path, method, item, item.at(method)));
                }
            }
        });
        if (drafts.isEmpty()) {
            findings.add(new Finding(
                    Finding.Severity.ERROR, "no-operation", "no operation is described", root.document(), 1, 1));
            throw new ContractRefused(findings);
        }
        String xsd = "<xs:schema xmlns:xs=\"http://www.w3.org/2001/XMLSchema\" elementFormDefault=\"unqualified\">"
                + elements + types.types() + "</xs:schema>";
        SchemaDocument schema = new SchemaDocument(
                XmlTree.read(xsd.getBytes(StandardCharsets.UTF_8), root.document(), XmlLimits.DOCUMENTS),
                root.document(),
                "");
        SchemaSet schemas = SchemaReader.read(List.of(schema), findings);
        return new Read(
                List.of(service(root, drafts, schemas)),
                schemas,
                List.of(schema),
                List.copyOf(documents.documents.values()),
                documents.unavailable);
    }

    private Service service(Place root, List<Draft> drafts, SchemaSet schemas) {
        List<Operation> operations =
                drafts.stream().map(d -> operation(d, schemas)).toList();
        String title = root.at("info").text("title");
        Place server = root.at("servers").at(0);
        String address = server.text("url");
        for (var variables = server.node().path("variables").fields(); variables.hasNext(); ) {
            var variable = variables.next();
            address = address.replace(
                    "{" + variable.getKey() + "}",
                    variable.getValue().path("default").asText(""));
        }
        String document = root.document();
        if (!address.matches("(?i)https?://.*") && document.matches("(?i)https?://.*")) {
            address = java.net.URI.create(document).resolve(address).toString();
        }
        Port port = new Port(
                "Http",
                "OpenAPI",
                null,
                address.replaceAll("/$", ""),
                operations,
                server.text("description"),
                "",
                advice(root));
        return new Service(
                title.isBlank() ? "Http service" : title,
                List.of(port),
                root.at("info").text("description"));
    }

    private static List<Advice> advice(Place root) {
        List<Advice> advice = new ArrayList<>();
        root.at("components").at("securitySchemes").node().fields().forEachRemaining(entry -> {
            JsonNode scheme = entry.getValue();
            String wants =
                    switch (scheme.path("type").asText()) {
                        case "http" -> "wants a login by HTTP "
                                + scheme.path("scheme").asText();
                        case "apiKey" -> "wants a key as " + scheme.path("in").asText() + " "
                                + scheme.path("name").asText();
                        case "oauth2" -> "wants a token of OAuth 2";
                        case "mutualTLS" -> "wants a client certificate";
                        default -> "wants a token of " + scheme.path("type").asText();
                    };
            advice.add(new Advice("login", wants, root.document(), 1));
        });
        return advice;
    }

    private Draft draft(String path, String method, Place item, Place operation) {
        String wanted = operation.text("operationId").isBlank()
                ? method + " " + path.replaceAll("[{}/]+", " ").strip()
                : operation.text("operationId");
        String name = unique(JsonName.element(camel(wanted)));
        StringBuilder request = new StringBuilder();
        request.append("<xs:element name=\"").append(name).append("\"><xs:complexType><xs:sequence>");
        List<HttpBinding.Place> places = new ArrayList<>();
        parameters(item, operation).forEach((key, parameter) -> parameter(parameter, places, request));
        Place body = documents.resolved(operation.at("requestBody"));
        String bodyType = contentType(body);
        if (bodyType != null) {
            boolean required = body.node().path("required").asBoolean(false);
            Place schema = body.at("content").at(bodyType).at("schema");
            types.member(request, BODY, schema, required, 0);
        }
        request.append("</xs:sequence></xs:complexType></xs:element>");
        elements.append(request);
        String replyType = null;
        String output = null;
        boolean answered = false;
        Map<String, String> faults = new LinkedHashMap<>();
        Place responses = operation.at("responses");
        List<String> statuses = new ArrayList<>();
        responses.node().fieldNames().forEachRemaining(statuses::add);
        for (String status : statuses) {
            Place response = documents.resolved(responses.at(status));
            String type = contentType(response);
            boolean good = status.startsWith("2");
            if (good && answered && output != null || good && type == null) {
                answered |= good;
                continue;
            }
            if (type != null) {
                String element = unique(name
                        + (good ? "Reply" : "Fault" + JsonName.element(status).replaceAll("^_x003(.)_", "$1")));
                root(element, response.at("content").at(type).at("schema"));
                if (good) {
                    output = element;
                    replyType = type;
                    answered = true;
                } else {
                    faults.put("HTTP " + status, element);
                }
            }
        }
        String said = operation.text("summary").isEmpty() ? "" : operation.text("summary") + ". ";
        return new Draft(
                name,
                method.toUpperCase(java.util.Locale.ROOT),
                path,
                new Described(List.copyOf(places), bodyType, replyType, bodyRoot(body, bodyType)),
                name,
                output,
                faults,
                (said + operation.text("description")).strip());
    }

    /** Returns the name an XML body begins with: the one its schema gives it, else that of the schema. */
    private Name bodyRoot(Place body, String bodyType) {
        if (!Described.xml(bodyType)) {
            return null;
        }
        Place schema = body.at("content").at(bodyType).at("schema");
        JsonNode xml = documents.resolved(schema).node().path("xml");
        String ref = schema.text("$ref");
        String name = xml.path("name").asText(ref.substring(ref.lastIndexOf('/') + 1));
        return new Name(xml.path("namespace").asText(""), name.isEmpty() ? BODY : name);
    }

    /** Writes the element a whole JSON document becomes: an array is an element that repeats {@code item}. */
    private void root(String element, Place schema) {
        types.element(elements, element, schema, "", false, 0);
    }

    private Map<String, Place> parameters(Place item, Place operation) {
        Map<String, Place> all = new LinkedHashMap<>();
        for (Place from : List.of(item, operation)) {
            for (int i = 0; i < from.node().path("parameters").size(); i++) {
                Place parameter = documents.resolved(from.at("parameters").at(i));
                all.put(parameter.text("in") + " " + parameter.text("name"), parameter);
            }
        }
        return all;
    }

    private void parameter(Place parameter, List<HttpBinding.Place> places, StringBuilder request) {
        String name = parameter.text("name");
        String in = parameter.text("in");
        String field = JsonName.element(name);
        for (int i = 2; containsField(places, field) || field.equals(BODY); i++) {
            field = JsonName.element(name) + "_" + i;
        }
        places.add(new HttpBinding.Place(field, in, name));
        boolean required =
                in.equals("path") || parameter.node().path("required").asBoolean(false);
        Place schema = parameter.at("schema").there()
                ? parameter.at("schema")
                : parameter.at("content").at(first(parameter.at("content"))).at("schema");
        Place described = schema;
        if (schema.text("description").isEmpty()
                && !parameter.text("description").isEmpty()
                && schema.node().isObject()) {
            var with = ((com.fasterxml.jackson.databind.node.ObjectNode)
                            documents.resolved(schema).node())
                    .deepCopy();
            with.put("description", parameter.text("description"));
            described = new Place(with, documents.resolved(schema).document(), schema.pointer());
        }
        types.member(request, JsonName.member(field), described, required, 0);
    }

    private static boolean containsField(List<HttpBinding.Place> places, String field) {
        return places.stream().anyMatch(place -> place.field().equals(field));
    }

    private static String first(Place content) {
        var names = content.node().fieldNames();
        return names.hasNext() ? names.next() : "";
    }

    /** Returns the content type that is used of those offered: JSON before XML before others; null for no content. */
    private static String contentType(Place holder) {
        String found = null;
        for (var names = holder.at("content").node().fieldNames(); names.hasNext(); ) {
            String type = names.next();
            if (found == null || Described.json(type) && !Described.json(found)) {
                found = type;
            }
        }
        return found;
    }

    private String unique(String wanted) {
        String name = wanted;
        for (int i = 2; !taken.add(name); i++) {
            name = wanted + i;
        }
        return name;
    }

    private static String camel(String text) {
        StringBuilder out = new StringBuilder();
        for (String word : text.split("[^\\p{L}\\p{N}_]+")) {
            out.append(
                    out.isEmpty() || word.isEmpty() ? word : Character.toUpperCase(word.charAt(0)) + word.substring(1));
        }
        return out.isEmpty() ? "operation" : out.toString();
    }

    private static Operation operation(Draft draft, SchemaSet schemas) {
        List<Operation.Fault> faults = new ArrayList<>();
        draft.faults().forEach((status, element) -> faults.add(new Operation.Fault(status, message(element, schemas))));
        boolean reads = draft.verb().equals("GET")
                || draft.verb().equals("HEAD")
                || draft.verb().equals("OPTIONS");
        Effect effect = reads ? Effect.READS : Effect.CHANGES;
        HttpBinding http = new HttpBinding(
                draft.verb(),
                draft.path(),
                HttpBinding.Input.DESCRIBED,
                Described.xml(draft.described().replyType()),
                draft.described());
        return new Operation(
                draft.name(),
                1,
                "http",
                use(draft.described()),
                "",
                message(draft.input(), schemas),
                draft.output() == null ? null : message(draft.output(), schemas),
                List.copyOf(faults),
                effect,
                draft.verb() + " " + draft.path()
                        + (draft.documentation().isEmpty() ? "" : ": " + draft.documentation()),
                draft.output() == null ? OperationKind.ONE_WAY : OperationKind.REQUEST_REPLY,
                http);
    }

    private static String use(Described described) {
        String type = described.bodyType() == null ? described.replyType() : described.bodyType();
        return Described.json(type) ? "json" : Described.xml(type) ? "xml" : "plain";
    }

    private static Message message(String element, SchemaSet schemas) {
        return new Message(element, List.of(), List.of(schemas.element(Name.of(element))));
    }
}
