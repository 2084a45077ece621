package wirekettle.server.environments;

import java.time.Instant;
import java.util.Map;
import org.eclipse.microprofile.openapi.annotations.media.Schema;

/**
 * Where flows run and operations are called.
 *
 * @param name its name, which everything that hangs on it uses
 * @param colour the word of the colour it is shown in
 * @param position its place among all, from 1
 * @param live whether what runs there is for real
 * @param values its constants by name, in reach of flows as {@code $env}
 * @param datasets the datasets and folders that stand for others there, by the names flows use
 * @param secrets the secrets that stand for others there, by the names fills use
 * @param version counts its changes
 */
@Schema(
        requiredProperties = {
            "name",
            "colour",
            "position",
            "live",
            "values",
            "datasets",
            "secrets",
            "version",
            "changedAt",
            "changedBy"
        })
public record Environment(
        String name,
        String colour,
        int position,
        boolean live,
        Map<String, String> values,
        Map<String, String> datasets,
        Map<String, String> secrets,
        int version,
        Instant changedAt,
        String changedBy) {}
