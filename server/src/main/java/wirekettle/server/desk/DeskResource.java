package wirekettle.server.desk;

import jakarta.inject.Inject;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.QueryParam;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.server.alerts.AlertMapper;
import wirekettle.server.contracts.ContractMapper;
import wirekettle.server.contracts.ContractStore;
import wirekettle.server.datasets.DatasetMapper;
import wirekettle.server.flows.FlowMapper;
import wirekettle.server.ledger.CorrectionMapper;
import wirekettle.server.ledger.RunMapper;
import wirekettle.server.publish.Publication;
import wirekettle.server.publish.Publications;
import wirekettle.server.settings.Expiries;
import wirekettle.server.triggers.TriggerMapper;
import wirekettle.server.web.Page;

/** The Desk, and finding anything by name. */
@Path("/api")
public class DeskResource {
    private static final int MOST = 8;
    private static final int SHORTEST_KEY = 3;

    @Inject
    FlowMapper flows;

    @Inject
    RunMapper runs;

    @Inject
    ContractMapper contracts;

    @Inject
    ContractStore contractStore;

    @Inject
    DatasetMapper datasets;

    @Inject
    Expiries expiries;

    @Inject
    AlertMapper alerts;

    @Inject
    Publications publications;

    @Inject
    TriggerMapper triggers;

    @Inject
    CorrectionMapper records;

    /** A flow with its last run. */
    @Schema(requiredProperties = {"id", "name", "revision"})
    public record FlowLine(long id, String name, int revision, RunMapper.Row lastRun) {}

    /** When a flow starts by itself next. */
    @Schema(requiredProperties = {"flowId", "flowName", "environment", "at"})
    public record NextTime(long flowId, String flowName, String environment, Instant at) {}

    /**
     * What the Desk shows.
     *
     * @param waiting runs that wait for somebody
     * @param alerts what was told and nobody looks after yet
     * @param inForce what is in force where
     * @param next when flows start by themselves next
     */
    @Schema(
            requiredProperties = {
                "flows",
                "runs",
                "contracts",
                "datasets",
                "flowTotal",
                "expiring",
                "waiting",
                "alerts",
                "alertTotal",
                "inForce",
                "next"
            })
    public record Desk(
            List<FlowLine> flows,
            List<RunMapper.Row> runs,
            long contracts,
            long datasets,
            long flowTotal,
            List<Expiries.Expiry> expiring,
            List<RunMapper.Row> waiting,
            List<AlertMapper.Alert> alerts,
            long alertTotal,
            List<Publication> inForce,
            List<NextTime> next) {}

    /** Something found. */
    @Schema(requiredProperties = {"kind", "name", "detail", "address"})
    public record Found(String kind, String name, String detail, String address) {}

    /** Returns the Desk. */
    @GET
    @Path("desk")
    public Desk desk() {
        List<FlowLine> lines = flows.page("%", "changed_at desc", 12, 0).stream()
                .map(f -> new FlowLine(f.id(), f.name(), f.revision(), runs.last(f.id())))
                .toList();
        return new Desk(
                lines,
                runs.page(0, "%", "%", 10, 0),
                contracts.count("%"),
                datasets.count("%"),
                flows.count("%"),
                expiries.soon(),
                runs.waiting(MOST),
                alerts.alerts(0, true, "%", MOST, 0),
                alerts.alertCount(0, true, "%"),
                publications.inForce(),
                triggers.page(0, "%", "t.due_at nulls last", MOST, 0).stream()
                        .filter(each -> each.active() && each.dueAt() != null)
                        .map(each -> new NextTime(each.flowId(), each.flowName(), each.environment(), each.dueAt()))
                        .toList());
    }

    /** Finds flows, contracts, operations, datasets and runs by name. */
    @GET
    @Path("find")
    public List<Found> find(@QueryParam("q") String q) {
        String like = Page.like(q);
        List<Found> found = new ArrayList<>();
        flows.page(like, "lower(name)", MOST, 0)
                .forEach(f -> found.add(new Found("Flow", f.name(), "revision " + f.revision(), "/flows/" + f.id())));
        datasets.page(like, MOST, 0)
                .forEach(d -> found.add(new Found("Dataset", d.name(), d.rows() + " rows", "/datasets/" + d.id())));
        String wanted = q == null ? "" : q.strip().toLowerCase(java.util.Locale.ROOT);
        for (ContractMapper.Row row : contracts.page("%", "lower(name)", 100, 0)) {
            if (row.name().toLowerCase(java.util.Locale.ROOT).contains(wanted)) {
                found.add(new Found("Contract", row.name(), row.source(), "/contracts/" + row.id()));
            }
            contractStore.get(row.id()).operations().stream()
                    .filter(o -> !wanted.isEmpty()
                            && o.operation()
                                    .key()
                                    .toLowerCase(java.util.Locale.ROOT)
                                    .contains(wanted))
                    .limit(MOST)
                    .forEach(o -> found.add(new Found(
                            "Operation",
                            o.operation().key(),
                            row.name() + " · " + o.port().name(),
                            "/contracts/" + row.id() + "?port=" + o.port().name() + "&operation="
                                    + o.operation().key())));
        }
        if (wanted.length() >= SHORTEST_KEY) {
            records.ofKey(q.strip().replace("%", "\\%").replace("_", "\\_") + "%", MOST, 0).stream()
                    .map(CorrectionMapper.Found::key)
                    .distinct()
                    .limit(SHORTEST_KEY)
                    .forEach(key -> found.add(new Found(
                            "Record",
                            key,
                            "in all runs",
                            "/records?key=" + URLEncoder.encode(key, StandardCharsets.UTF_8))));
        }
        runs.page(0, like, "%", 5, 0)
                .forEach(r -> found.add(
                        new Found("Run", "Run " + r.id() + " of " + r.flowName(), r.state(), "/runs/" + r.id())));
        return found;
    }
}
