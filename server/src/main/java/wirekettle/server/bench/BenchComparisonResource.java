package wirekettle.server.bench;

import jakarta.inject.Inject;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.QueryParam;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.soap.MessageText;
import wirekettle.core.value.NodeComparison;
import wirekettle.core.xml.XmlProblem;
import wirekettle.server.web.Problem;

/** Two calls of the bench compared by structure. */
@Path("/api")
public class BenchComparisonResource {
    @Inject
    BenchMapper mapper;

    /**
     * What differs between two calls.
     *
     * @param request differences of what was sent
     * @param reply differences of what came back
     * @param problems why a side could not be compared
     */
    @Schema(
            name = "BenchComparison",
            requiredProperties = {"request", "reply", "problems"})
    public record Comparison(
            List<NodeComparison.Difference> request, List<NodeComparison.Difference> reply, List<String> problems) {}

    /** Compares two calls by structure; the content of ignored names does not matter. */
    @GET
    @Path("bench/comparison")
    public Comparison compare(
            @QueryParam("one") long one, @QueryParam("other") long other, @QueryParam("ignore") List<String> ignore) {
        BenchMapper.Row before = mapper.byId(one);
        BenchMapper.Row after = mapper.byId(other);
        if (before == null || after == null) {
            throw Problem.missing("call");
        }
        Set<String> ignored = ignore == null ? Set.of() : Set.copyOf(ignore);
        List<String> problems = new ArrayList<>();
        return new Comparison(
                differences("requests", before.request(), after.request(), ignored, problems),
                differences("replies", before.reply(), after.reply(), ignored, problems),
                problems);
    }

    private static List<NodeComparison.Difference> differences(
            String what, String before, String after, Set<String> ignored, List<String> problems) {
        if (before == null || after == null) {
            if (before != after) {
                problems.add("Only one of the calls has a reply.");
            }
            return List.of();
        }
        try {
            return NodeComparison.of(MessageText.node(before), MessageText.node(after), ignored);
        } catch (XmlProblem e) {
            problems.add("The " + what + " cannot be compared by structure: one of them cannot be read ("
                    + e.getMessage() + ").");
            return List.of();
        }
    }
}
