package wirekettle.server.serve;

import com.fasterxml.jackson.core.type.TypeReference;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.JsonNodeFactory;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.flow.run.Answer;
import wirekettle.core.flow.run.End;
import wirekettle.core.record.InputReader;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.value.DocumentForm;
import wirekettle.server.web.Json;

/**
 * What a caller gets.
 *
 * @param status the HTTP status
 * @param type its content type, null where there is no content
 * @param body the text
 * @param headers other headers
 */
record Reply(int status, String type, String body, Map<String, String> headers) {
    static final String JSON = "application/json";
    static final String PROBLEM = "application/problem+json";
    /** The code of what is told where too many wait. */
    static final String BUSY = "busy";

    private static final String RETRY = "Retry-After";
    private static final String RECORD = "Wire-Kettle-Record";

    /** Why a record failed. */
    record Why(FailureClass failureClass, String cause, String message) {}

    /** Returns why nothing was taken though not too many wait; null where that is not what it says. */
    String refusal() {
        JsonNode said = status == 503 && record() == null ? Json.read(body, new TypeReference<>() {}) : null;
        return said == null || said.path("code").asText().equals(BUSY)
                ? null
                : said.path("detail").asText();
    }

    /** Returns run and place of the record it is about, null where nothing was taken. */
    String record() {
        return headers.get(RECORD);
    }

    /** Returns this with one more header. */
    Reply with(String header, String value) {
        Map<String, String> all = new LinkedHashMap<>(headers);
        all.put(header, value);
        return new Reply(status, type, body, all);
    }

    /** Returns problem details (RFC 9457). */
    static Reply problem(int status, String code, String detail) {
        return new Reply(status, PROBLEM, document(status, code, detail).toString(), Map.of());
    }

    private static ObjectNode document(int status, String code, String detail) {
        return JsonNodeFactory.instance
                .objectNode()
                .put("type", "about:blank")
                .put("title", code)
                .put("status", status)
                .put("detail", detail)
                .put("code", code);
    }

    /** Returns an answer that it cannot be done just now. */
    static Reply later(String code, String detail) {
        return problem(503, code, detail).with(RETRY, "1");
    }

    /** Returns what is told of a request that is too large. */
    static Reply tooLarge(long most) {
        return problem(413, "too-large", "A request has at most " + most + " bytes.");
    }

    /** Returns an answer to one who asks too often. */
    static Reply tooMany(int aMinute, long seconds) {
        return problem(429, "too-many", "This key is good for " + aMinute + " requests a minute.")
                .with(RETRY, Long.toString(seconds));
    }

    /** Returns an answer that names every value that is wrong. */
    static Reply wrong(List<InputReader.Problem> problems) {
        InputReader.Problem first = problems.get(0);
        ObjectNode document = document(
                400,
                "bad-input",
                (first.pointer().isEmpty() ? "The document" : first.pointer()) + " " + first.message() + "."
                        + (problems.size() > 1 ? " There are " + (problems.size() - 1) + " more problems." : ""));
        ArrayNode all = document.putArray("problems");
        problems.forEach(each -> all.addObject().put("pointer", each.pointer()).put("detail", each.message()));
        return new Reply(400, PROBLEM, document.toString(), Map.of());
    }

    /** Returns what is said when something was taken and is worked on: where its answer is asked for. */
    static Reply taken(String place, String record) {
        ObjectNode document =
                JsonNodeFactory.instance.objectNode().put("state", "going").put("answer", place);
        return new Reply(202, JSON, document.toString(), Map.of())
                .with("Location", place)
                .with(RETRY, "1")
                .with(RECORD, record);
    }

    /** Returns what is said when a run came to its end before a record did. */
    static Reply stopped() {
        return later("stopped", "The flow was stopped before this was worked on.");
    }

    /**
     * Returns what the end of a record says.
     *
     * @param why why it failed, or null
     * @param answer what the flow answers, or null
     * @param record run and place of it
     */
    static Reply of(End end, Why why, Answer answer, String record) {
        if (answer != null && end != End.IN_DOUBT) {
            String type =
                    answer.form() == DocumentForm.XML ? "application/xml" : answer.status() >= 400 ? PROBLEM : JSON;
            return new Reply(answer.status(), type, answer.body(), answer.headers()).with(RECORD, record);
        }
        if (end == End.DONE || end == End.LEFT_OUT) {
            return new Reply(204, null, "", Map.of()).with(RECORD, record);
        }
        int status = status(end, why);
        ObjectNode document = document(
                        status,
                        end == End.IN_DOUBT ? "in-doubt" : "rejected",
                        why == null ? "It ended as " + end.word() + "." : why.message())
                .put("record", record);
        if (why != null) {
            document.put("cause", why.cause()).put("class", why.failureClass().word());
        }
        Reply reply = new Reply(status, PROBLEM, document.toString(), Map.of()).with(RECORD, record);
        return status == 503 ? reply.with(RETRY, "1") : reply;
    }

    private static int status(End end, Why why) {
        if (end == End.IN_DOUBT) {
            return 504;
        }
        if (end == End.HELD_BACK) {
            return 409;
        }
        if (why != null && Answer.MISFIT.equals(why.cause())) {
            // what was sent is not to blame
            return 500;
        }
        FailureClass its = why == null ? FailureClass.INTERNAL : why.failureClass();
        return switch (its) {
            case MAPPING, VALIDATION -> 422;
            case CONNECTION -> 503;
            case TIMEOUT -> 504;
            case INTERNAL -> 500;
            default -> 502;
        };
    }
}
