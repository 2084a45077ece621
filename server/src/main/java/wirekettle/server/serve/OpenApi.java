package wirekettle.server.serve;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.JsonNodeFactory;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.flow.file.AnswerStage;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.record.DocumentPlan;
import wirekettle.core.record.InputReader;
import wirekettle.core.record.InputShape;
import wirekettle.core.record.JsonSchema;
import wirekettle.core.value.Column;
import wirekettle.core.value.DocumentForm;
import wirekettle.core.value.JsonName;
import wirekettle.server.triggers.CallerPath;
import wirekettle.server.triggers.TriggerSpec;

/** What a flow that answers callers takes and gives, as an OpenAPI 3.1 document. */
final class OpenApi {
    private static final ObjectMapper JSON = new ObjectMapper();
    private static final String SCHEMAS = "#/components/schemas/";
    private static final String PROBLEM = "Problem";

    private final TriggerSpec spec;
    private final int revision;
    private final FlowFile file;
    private final InputShape input;
    private final CallerPath path;
    private final Map<String, Column> first = new LinkedHashMap<>();
    private final Set<String> beside = new HashSet<>();
    private final ObjectNode document = JsonNodeFactory.instance.objectNode();

    private OpenApi(TriggerSpec spec, int revision, FlowFile file) {
        this.spec = spec;
        this.revision = revision;
        this.file = file;
        this.input = file.source().orElseThrow().input();
        this.path = CallerPath.of(spec.path());
        input.columns().forEach(each -> first.put(JsonName.member(each.name()), each));
    }

    /**
     * Builds the document of a flow that answers callers.
     *
     * @param prefix what stands before its path in an address
     */
    static ObjectNode of(TriggerSpec spec, int revision, FlowFile file, String prefix) {
        return new OpenApi(spec, revision, file).built(prefix);
    }

    private ObjectNode built(String prefix) {
        document.put("openapi", "3.1.0");
        ObjectNode info = document.putObject("info");
        info.put("title", file.name()).put("version", Integer.toString(revision));
        document.putArray("servers").addObject().put("url", "/");
        ObjectNode methods = document.putObject("paths").putObject(prefix + spec.path());
        ObjectNode schemas = document.putObject("components").putObject("schemas");
        ArrayNode parameters = parameters();
        schemas.set("Input", withoutBeside());
        if (Boolean.TRUE.equals(spec.get())) {
            ObjectNode get = operation(methods, "get", file);
            ArrayNode its = get.putArray("parameters").addAll(parameters);
            first.forEach((member, column) -> {
                if (!beside.contains(member)) {
                    its.add(parameter(member, "query", column));
                }
            });
            responses(get, false);
        }
        ObjectNode post = operation(methods, "post", file);
        ArrayNode its = post.putArray("parameters").addAll(parameters);
        its.addObject()
                .put("name", "Idempotency-Key")
                .put("in", "header")
                .put("description", "The same key and body get the same answer; another body is refused.")
                .putObject("schema")
                .put("type", "string")
                .put("maxLength", 255);
        its.addObject()
                .put("name", "Prefer")
                .put("in", "header")
                .put("description", "respond-async: it is taken (202), and its answer asked for later.")
                .putObject("schema")
                .put("type", "string");
        body(post);
        responses(post, true);
        problem(schemas.putObject(PROBLEM));
        security();
        return document;
    }

    private static ObjectNode operation(ObjectNode methods, String method, FlowFile file) {
        return methods.putObject(method)
                .put("operationId", method + "-" + file.name().replaceAll("[^A-Za-z0-9]+", "-"))
                .put("summary", file.name());
    }

    private ArrayNode parameters() {
        ArrayNode all = JsonNodeFactory.instance.arrayNode();
        path.fields().forEach(member -> {
            beside.add(member);
            all.add(parameter(member, "path", first.get(member)));
        });
        List<TriggerSpec.HeaderField> headers = spec.headers();
        for (TriggerSpec.HeaderField each : headers == null ? List.<TriggerSpec.HeaderField>of() : headers) {
            beside.add(each.field());
            all.add(parameter(each.header(), "header", first.get(each.field())));
        }
        return all;
    }

    private static ObjectNode parameter(String name, String in, Column column) {
        ObjectNode parameter =
                JsonNodeFactory.instance.objectNode().put("name", name).put("in", in);
        parameter.put("required", in.equals("path") || column != null && column.required());
        parameter.set(
                "schema",
                column == null
                        ? JsonNodeFactory.instance.objectNode().put("type", "string")
                        : JsonSchema.scalar(column));
        return parameter;
    }

    /** What the address and headers say is not in the body. */
    private ObjectNode withoutBeside() {
        List<Column> columns = input.columns().stream()
                .filter(each -> !beside.contains(JsonName.member(each.name())))
                .toList();
        return JsonSchema.of(columns, input.lists(), true);
    }

    private void body(ObjectNode post) {
        ObjectNode body = post.putObject("requestBody").put("required", true);
        ObjectNode content = body.putObject("content");
        List<String> types = new ArrayList<>(List.of(Reply.JSON, "application/xml"));
        if (InputReader.flat(input)) {
            types.add("application/x-www-form-urlencoded");
        }
        for (String type : types) {
            ObjectNode its = content.putObject(type);
            its.putObject("schema").put("$ref", SCHEMAS + "Input");
            if (type.equals(Reply.JSON) && !input.samples().isEmpty()) {
                example(its, input.samples().get(0));
            }
        }
    }

    private static void example(ObjectNode content, String sample) {
        try {
            JsonNode read = JSON.readTree(sample);
            content.set("example", read);
        } catch (JsonProcessingException e) {
            // it is a sample of something else
        }
    }

    private void responses(ObjectNode operation, boolean post) {
        ObjectNode responses = operation.putObject("responses");
        List<AnswerStage> answers = new ArrayList<>();
        for (Stage each : file.stages()) {
            if (each instanceof AnswerStage answer) {
                answers.add(answer);
            }
        }
        if (answers.isEmpty()) {
            responses.putObject("204").put("description", "It is done; nothing is answered.");
        }
        for (AnswerStage answer : answers) {
            answer(responses, answer);
        }
        if (post) {
            described(responses, "202", "It is taken; its answer is asked for at the address in Location.");
            refused(responses, "409", "Something else was sent under this Idempotency-Key, or it is worked on.");
        }
        refused(responses, "400", "What was sent is not as it should be; each problem is named by a JSON pointer.");
        if (!Boolean.TRUE.equals(spec.open())) {
            refused(responses, "401", "No key that counts was shown.");
            refused(responses, "429", "The key is not good for so many requests; Retry-After says when.");
        }
        refused(responses, "422", "It was rejected for what was sent.");
        refused(responses, "502", "The service behind it failed.");
        refused(responses, "503", "It cannot be done just now; nothing was done. Retry-After says when.");
        refused(responses, "504", "There was no answer in time; where the code is in-doubt, it may have been done.");
    }

    private void answer(ObjectNode responses, AnswerStage answer) {
        String status = answer.status() == null ? "200" : answer.status().replaceAll("^['\"]|['\"]$", "");
        String key = status.matches("[2-5]\\d\\d") ? status : "2XX";
        if (responses.has(key)) {
            return;
        }
        ObjectNode response = described(responses, key, "Answered.");
        if (!answer.headers().isEmpty()) {
            ObjectNode headers = response.putObject("headers");
            answer.headers()
                    .forEach(each ->
                            headers.putObject(each.name()).putObject("schema").put("type", "string"));
        }
        String name = "Answer" + (key.equals("200") ? "" : key);
        List<String> lists =
                answer.groups().stream().map(DocumentPlan.Group::name).toList();
        ((ObjectNode) document.at("/components/schemas")).set(name, JsonSchema.of(answer.columns(), lists, false));
        response.putObject("content")
                .putObject(answer.document() == DocumentForm.XML ? "application/xml" : Reply.JSON)
                .putObject("schema")
                .put("$ref", SCHEMAS + name);
    }

    private static ObjectNode described(ObjectNode responses, String status, String text) {
        return responses.putObject(status).put("description", text);
    }

    private static void refused(ObjectNode responses, String status, String text) {
        if (!responses.has(status)) {
            described(responses, status, text)
                    .putObject("content")
                    .putObject(Reply.PROBLEM)
                    .putObject("schema")
                    .put("$ref", SCHEMAS + PROBLEM);
        }
    }

    private static void problem(ObjectNode schema) {
        schema.put("type", "object").put("description", "Problem details (RFC 9457)");
        ObjectNode properties = schema.putObject("properties");
        for (String each : List.of("type", "title", "detail", "code", "cause", "record")) {
            properties.putObject(each).put("type", "string");
        }
        properties.putObject("status").put("type", "integer");
        ObjectNode item = properties.putObject("problems").put("type", "array").putObject("items");
        item.put("type", "object");
        ObjectNode its = item.putObject("properties");
        its.putObject("pointer").put("type", "string");
        its.putObject("detail").put("type", "string");
    }

    private void security() {
        if (Boolean.TRUE.equals(spec.open())) {
            return;
        }
        ObjectNode schemes = ((ObjectNode) document.get("components")).putObject("securitySchemes");
        schemes.putObject("bearer").put("type", "http").put("scheme", "bearer");
        schemes.putObject("key").put("type", "apiKey").put("in", "header").put("name", "X-Api-Key");
        ArrayNode either = document.putArray("security");
        either.addObject().putArray("bearer");
        either.addObject().putArray("key");
    }
}
