package wirekettle.core.flow.run;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.xml.XmlProblem;

/** A failure as the ledger keeps it with a claim, so that a record which goes on fails at the same stage again. */
final class KeptFailure {
    private KeptFailure() {}

    static void write(Failure failure, ObjectNode into) {
        into.put("class", failure.failureClass().name())
                .put("cause", failure.cause())
                .put("message", failure.message())
                .put("stage", failure.stage())
                .put("blame", failure.blame())
                .put("field", failure.field())
                .put("value", failure.value())
                .put("status", failure.status())
                .put("attempts", failure.attempts())
                .put("fault", failure.fault() == null ? null : KeptNode.write(failure.fault()));
    }

    static Failure read(JsonNode from) throws XmlProblem {
        return new Failure(
                FailureClass.valueOf(from.path("class").asText()),
                from.path("cause").asText(),
                from.path("message").asText(),
                from.path("stage").asText(),
                from.path("blame").textValue(),
                from.path("field").asText(),
                from.path("value").asText(),
                from.path("status").asInt(),
                from.path("attempts").asInt(),
                from.hasNonNull("fault") ? KeptNode.read(from.path("fault").asText()) : null,
                false);
    }
}
