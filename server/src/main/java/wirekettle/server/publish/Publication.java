package wirekettle.server.publish;

import java.time.Instant;
import java.util.Map;
import org.eclipse.microprofile.openapi.annotations.media.Schema;

/**
 * A revision of a flow put into force in an environment.
 *
 * @param id the id; of a flow and an environment the highest counts
 * @param flowId the flow
 * @param flowName its name now
 * @param environment where
 * @param revision which revision, null where nothing is in force any more
 * @param contracts the revisions of the contracts it calls, by name
 * @param values the named values it uses, as they were
 * @param note why
 * @param beforeId what was in force before, null for nothing
 * @param publishedAt when
 * @param publishedBy by whom
 */
@Schema(
        requiredProperties = {
            "id",
            "flowId",
            "flowName",
            "environment",
            "contracts",
            "values",
            "note",
            "publishedAt",
            "publishedBy"
        })
public record Publication(
        Long id,
        Long flowId,
        String flowName,
        String environment,
        Integer revision,
        Map<String, Integer> contracts,
        Map<String, String> values,
        String note,
        Long beforeId,
        Instant publishedAt,
        String publishedBy) {}
