package wirekettle.server.serve;

import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.JsonNodeFactory;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.util.List;
import wirekettle.core.flow.run.Answer;
import wirekettle.core.flow.run.End;
import wirekettle.core.flow.run.Failure;
import wirekettle.core.flow.run.LedgerLine;
import wirekettle.core.record.InputReader;
import wirekettle.core.value.DocumentForm;

/**
 * What a caller gets.
 *
 * @param status the HTTP status
 * @param type its content type, null where there is no content
 * @param body the text
 * @param retrySeconds after how long it may be tried again, 0 where nothing is said
 * @param record run and place of its record, null where there is none
 */
record Reply(int status, String type, String body, int retrySeconds, String record) {
    private static final String JSON = "application/json";
    private static final String PROBLEM = "application/problem+json";

    /** Returns problem details (RFC 9457). */
    static Reply problem(int status, String code, String detail) {
        return new Reply(status, PROBLEM, document(status, code, detail).toString(), 0, null);
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
        return new Reply(503, PROBLEM, document(503, code, detail).toString(), 1, null);
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
        return new Reply(400, PROBLEM, document.toString(), 0, null);
    }

    /** Returns what the end of a record says. */
    static Reply of(LedgerLine line, Answer answer, long run) {
        if (line == null) {
            return later("stopped", "The flow was stopped before this was worked on.");
        }
        String record = run + "/" + line.ordinal();
        if (answer != null && line.end() != End.IN_DOUBT) {
            String type =
                    answer.form() == DocumentForm.XML ? "application/xml" : answer.status() >= 400 ? PROBLEM : JSON;
            return new Reply(answer.status(), type, answer.body(), 0, record);
        }
        if (line.end() == End.DONE || line.end() == End.LEFT_OUT) {
            return new Reply(204, null, "", 0, record);
        }
        Failure why = line.failure();
        int status = status(line.end(), why);
        ObjectNode document = document(
                        status,
                        line.end() == End.IN_DOUBT ? "in-doubt" : "rejected",
                        why == null ? "It ended as " + line.end().word() + "." : why.message())
                .put("record", record);
        if (why != null) {
            document.put("cause", why.cause()).put("class", why.failureClass().word());
        }
        return new Reply(status, PROBLEM, document.toString(), status == 503 ? 1 : 0, record);
    }

    private static int status(End end, Failure why) {
        if (end == End.IN_DOUBT) {
            return 504;
        }
        if (end == End.HELD_BACK) {
            return 409;
        }
        return switch (why.failureClass()) {
            case MAPPING, VALIDATION -> 422;
            case CONNECTION -> 503;
            case TIMEOUT -> 504;
            case INTERNAL -> 500;
            default -> 502;
        };
    }
}
