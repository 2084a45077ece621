package wirekettle.core.flow.file;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.util.List;

/**
 * Flow files of format 1 as what they mean in format 2: the place for rejected records becomes the flow's lane, whose
 * Write leaves empty what cannot be mapped; retries become a rule of the call's lane.
 */
final class Format1 {
    private static final List<String> RETRIED = List.of("connection", "timeout", "http-status", "reply");
    private static final int RETRIES = 2;
    private static final int BACK_OFF_MILLIS = 200;

    private Format1() {}

    static ObjectNode raised(JsonNode old) {
        ObjectNode file = old.deepCopy();
        file.put("format", FlowFile.FORMAT);
        for (JsonNode each : file.path("stages")) {
            ObjectNode stage = (ObjectNode) each;
            if (stage.path("verb").asText().equals("Call")) {
                call(stage, file);
            }
        }
        return file;
    }

    private static void call(ObjectNode call, ObjectNode file) {
        ObjectNode delivery = call.path("delivery") instanceof ObjectNode given ? given : null;
        JsonNode retries = delivery == null ? null : delivery.remove("retries");
        JsonNode backOff = delivery == null ? null : delivery.remove("backOffMillis");
        if (delivery != null) {
            delivery.remove("resendChanges");
        }
        int times = retries == null || retries.isNull() ? RETRIES : Math.min(10, retries.asInt());
        if (times > 0) {
            ObjectNode rule = call.putObject("lane").putArray("rules").addObject();
            rule.put("id", call.path("id").asText() + "-again");
            RETRIED.forEach(rule.putArray("on")::add);
            rule.put(
                    "when",
                    "not($failure/class = 'http-status') or number($failure/status) ge 500 or $failure/status = '429'");
            rule.put("then", "again");
            rule.put("times", times);
            rule.put("backOffMillis", backOff == null || backOff.isNull() ? BACK_OFF_MILLIS : backOff.asInt());
        }
        if (call.remove("rejects") instanceof ObjectNode rejects) {
            rejects.put("verb", "Write");
            rejects.put("leaveUnfit", true);
            ArrayNode rules = file.putObject("lane").putArray("rules");
            ObjectNode rule = rules.addObject();
            rule.put("id", rejects.path("id").asText() + "-rule");
            rule.put("then", "reject");
            rule.putArray("stages").add(rejects);
        }
    }
}
