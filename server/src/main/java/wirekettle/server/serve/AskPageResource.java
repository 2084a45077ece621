package wirekettle.server.serve;

import com.fasterxml.jackson.databind.JsonNode;
import jakarta.inject.Inject;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import jakarta.ws.rs.QueryParam;
import jakarta.ws.rs.core.Response;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionStage;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.record.InputReader;
import wirekettle.core.value.Node;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.triggers.TriggerMapper;
import wirekettle.server.triggers.TriggerSpec;
import wirekettle.server.triggers.Triggers;
import wirekettle.server.web.Page;
import wirekettle.server.web.Problem;

/** Pages on which people who are signed in, and may run in their environment, ask a flow. */
@Path("/api")
public class AskPageResource {
    private static final String PLACE = "Wire-Kettle-Record";

    @Inject
    ServedFlows flows;

    @Inject
    AskPages pages;

    @Inject
    TriggerMapper triggers;

    @Inject
    CallerTraffic traffic;

    @Inject
    CurrentPerson current;

    /**
     * A page in a list.
     *
     * @param id the trigger it belongs to
     */
    @Schema(
            name = "AskPageSummary",
            requiredProperties = {"id", "title", "note", "flow", "environment", "path"})
    public record Summary(long id, String title, String note, String flow, String environment, String path) {}

    /** Lists the pages the person may ask on. */
    @GET
    @Path("ask-pages")
    public Page<Summary> list(
            @QueryParam("q") String search, @QueryParam("page") Integer page, @QueryParam("size") Integer size) {
        String wanted = search == null ? "" : search.toLowerCase(Locale.ROOT);
        List<Summary> all = new ArrayList<>();
        for (TriggerMapper.Row row : triggers.ofKind("http")) {
            TriggerSpec spec = Triggers.spec(row);
            if (!row.active() || spec.page() == null || !current.mayRunIn(row.environment())) {
                continue;
            }
            String title =
                    spec.page().title() == null ? row.flowName() : spec.page().title();
            if ((title + " " + row.flowName()).toLowerCase(Locale.ROOT).contains(wanted)) {
                String note = spec.page().note() == null ? "" : spec.page().note();
                all.add(new Summary(row.id(), title, note, row.flowName(), row.environment(), spec.path()));
            }
        }
        all.sort(Comparator.comparing(Summary::title, String.CASE_INSENSITIVE_ORDER));
        int most = Page.size(size);
        int from = (int) Math.min(all.size(), Page.offset(page, size));
        return new Page<>(all.subList(from, Math.min(all.size(), from + most)), all.size());
    }

    /** Returns a page. */
    @GET
    @Path("ask-pages/{trigger}")
    public AskPages.View page(@PathParam("trigger") long trigger) {
        return pages.of(served(trigger));
    }

    private Served served(long trigger) {
        TriggerMapper.Row row = triggers.byId(trigger);
        if (row == null || !row.active() || Triggers.spec(row).page() == null) {
            throw Problem.missing("page");
        }
        current.mustRunIn(row.environment());
        ServedFlows.Found found = flows.at(Triggers.spec(row).path());
        if (found == null || found.served().trigger() != trigger) {
            throw new Problem(409, "nothing-in-force", "“" + row.flowName() + "” is not published where it is asked.");
        }
        return found.served();
    }

    /** Asks: what a person typed is a record of the flow, and its answer comes back as it would to a caller. */
    @POST
    @Needs(Right.RUN)
    @Path("ask-pages/{trigger}/records")
    public CompletionStage<Response> ask(@PathParam("trigger") long trigger, JsonNode typed) {
        long since = System.nanoTime();
        Served served = served(trigger);
        List<InputReader.Problem> problems = new ArrayList<>();
        Node input;
        try {
            byte[] body = String.valueOf(typed).getBytes(StandardCharsets.UTF_8);
            input = served.reader().json(body, Map.of(), problems);
        } catch (InputReader.Unreadable e) {
            throw new Problem(400, "not-json", e.getMessage());
        }
        String person = current.name();
        if (!problems.isEmpty()) {
            return told(Reply.wrong(problems));
        }
        Asked asked = Asked.of(input, person, ServeRoutes.PREFIX + served.spec().path(), null, false);
        return served.answer(asked, () -> {})
                .whenComplete((reply, thrown) -> traffic.count(
                        trigger, person, thrown == null ? reply.status() : 500, System.nanoTime() - since))
                .thenCompose(AskPageResource::told);
    }

    private static CompletionStage<Response> told(Reply reply) {
        Response.ResponseBuilder made = Response.status(reply.status());
        if (reply.type() != null) {
            made.type(reply.type()).entity(reply.body());
        }
        String place = reply.headers().get(PLACE);
        if (place != null) {
            made.header(PLACE, place);
        }
        return CompletableFuture.completedFuture(made.build());
    }
}
