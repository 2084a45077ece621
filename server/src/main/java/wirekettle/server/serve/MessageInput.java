package wirekettle.server.serve;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.connect.queue.QueueMessage;
import wirekettle.core.record.InputReader;
import wirekettle.core.value.Node;
import wirekettle.server.triggers.TriggerSpec;

/** Makes records of messages; of one that cannot be taken as it is, a record that ends rejected and says why. */
final class MessageInput {
    private static final int DELIVERIES = 10;
    private static final int MOST_TEXT = 100_000;

    private final TriggerSpec spec;

    MessageInput(TriggerSpec spec) {
        this.spec = spec;
    }

    /**
     * Returns what a message asks.
     *
     * @param reader reads what is in it
     * @param mostBytes how large it may be
     * @param named its own name
     * @param known why it is rejected, null where nothing is known yet
     */
    Asked asked(InputReader reader, long mostBytes, QueueMessage message, String named, String known) {
        String replyTo =
                message.replyTo() != null ? message.replyTo() : spec.queue().answers();
        String correlation = message.correlation() != null ? message.correlation() : message.id();
        int most = spec.queue().deliveries() == null ? DELIVERIES : spec.queue().deliveries();
        String problem = known;
        if (problem == null && message.problem() != null) {
            problem = "it cannot be read: " + message.problem();
        } else if (problem == null && message.body().length > mostBytes) {
            problem = "it has " + message.body().length + " bytes, and " + mostBytes + " are taken at most";
        } else if (problem == null && message.deliveries() > most) {
            problem = "it was given " + message.deliveries() + " times and never accepted";
        }
        if (problem == null && message.id() == null && message.deliveries() > 1) {
            problem = "it was given before and has no message id: whether it was taken then cannot be told";
        }
        List<InputReader.Problem> wrong = new ArrayList<>();
        Node input = problem == null ? read(reader, message, wrong) : null;
        if (problem == null && !wrong.isEmpty()) {
            InputReader.Problem first = wrong.get(0);
            problem = (first.pointer().isEmpty() ? "it " : first.pointer() + " ")
                    + first.message()
                    + (wrong.size() > 1 ? ", and " + (wrong.size() - 1) + " more problems" : "");
        }
        Node kept = input == null ? asItIs(reader, message) : input;
        return Asked.message(kept, problem, named, replyTo, correlation);
    }

    private Node read(InputReader reader, QueueMessage message, List<InputReader.Problem> wrong) {
        try {
            return xml(message)
                    ? reader.xml(message.body(), beside(message), wrong)
                    : reader.json(message.body(), beside(message), wrong);
        } catch (InputReader.Unreadable e) {
            wrong.add(new InputReader.Problem("", "is no " + (xml(message) ? "XML" : "JSON") + ": " + e.getMessage()));
            return null;
        }
    }

    private Map<String, List<String>> beside(QueueMessage message) {
        Map<String, List<String>> fields = new LinkedHashMap<>();
        for (TriggerSpec.HeaderField each :
                spec.headers() == null ? List.<TriggerSpec.HeaderField>of() : spec.headers()) {
            String value = message.properties().get(each.header());
            if (value != null) {
                fields.put(each.field(), List.of(value));
            }
        }
        return fields;
    }

    /** What its content type says, else what it begins with. */
    private static boolean xml(QueueMessage message) {
        String type = message.type() == null ? "" : message.type();
        return type.contains("xml")
                || !type.contains("json") && message.text().stripLeading().startsWith("<");
    }

    /** What cannot be read is kept as text: somebody has to look at it. */
    private static Node asItIs(InputReader reader, QueueMessage message) {
        String text = message.text();
        String cut = text.length() > MOST_TEXT ? text.substring(0, MOST_TEXT) + "…" : text;
        return reader.unread(cut);
    }
}
