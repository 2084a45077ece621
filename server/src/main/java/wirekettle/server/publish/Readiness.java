package wirekettle.server.publish;

import com.fasterxml.jackson.annotation.JsonValue;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.io.IOException;
import java.net.URI;
import java.nio.file.Files;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.connect.HostRefused;
import wirekettle.connect.HostRule;
import wirekettle.connect.Probe;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.FlowProblem;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.flow.file.StandIns;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.server.datasets.DatasetMapper;
import wirekettle.server.datasets.DatasetStore;
import wirekettle.server.flows.FlowContext;
import wirekettle.server.hosts.Hosts;
import wirekettle.server.settings.EndpointTrials;
import wirekettle.server.settings.Endpoints;
import wirekettle.server.settings.Expiries;
import wirekettle.server.web.Problem;

/** Says what a flow needs in an environment, and whether it is there. */
@ApplicationScoped
public class Readiness {
    @Inject
    FlowContext context;

    @Inject
    DatasetMapper datasets;

    @Inject
    DatasetStore store;

    @Inject
    Hosts hosts;

    @Inject
    EndpointTrials trials;

    @Inject
    Expiries expiries;

    /** How it stands with something a flow needs. */
    public enum State {
        /** It is there. */
        READY,
        /** It is there, and was tried. */
        TRIED,
        /** It is there, and somebody should look at it before long. */
        SOON,
        /** It is missing, or does not work. */
        MISSING;

        /** Returns the word used in the API. */
        @JsonValue
        public String word() {
            return name().toLowerCase(Locale.ROOT);
        }
    }

    /**
     * One thing a flow needs.
     *
     * @param kind flow, endpoint, dataset, folder, value or certificate
     * @param name its name
     * @param state how it stands
     * @param message what is missing or wrong and what to do, or what was tried
     * @param address the screen where it is mended
     */
    @Schema(
            name = "Need",
            requiredProperties = {"kind", "name", "state", "message", "address"})
    public record Need(String kind, String name, State state, String message, String address) {}

    /** Returns what a revision needs in an environment; where tried, what can be reached without harm is reached. */
    public List<Need> of(
            long flowId, FlowFile written, Map<String, Integer> contracts, String environment, boolean tried) {
        FlowFile file = StandIns.in(written, context.standIns(environment));
        CompiledFlow flow = context.compile(file, contracts);
        List<Need> needs = new ArrayList<>();
        List<FlowProblem> differs = context.ofStandIns(written, file, contracts);
        needs.add(differs.isEmpty() ? itself(flowId, flow) : standIns(flow, differs.get(0), environment));
        Map<String, CompiledCall> endpoints = new LinkedHashMap<>();
        for (CompiledCall call : flow.all(CompiledCall.class)) {
            endpoints.putIfAbsent(String.valueOf(call.stage().endpoint()), call);
            Need fills = fills(call, environment);
            if (fills != null) {
                needs.add(fills);
            }
        }
        endpoints.forEach((name, call) -> needs.add(endpoint(name, call, environment, tried)));
        Set<String> named = new TreeSet<>(file.folders());
        file.all().stream()
                .map(Stage::dataset)
                .filter(name -> name != null && !name.isBlank())
                .forEach(named::add);
        String source = flow.source() == null ? null : flow.source().stage().dataset();
        named.forEach(name -> needs.add(dataset(name, name.equals(source), tried)));
        for (String name : file.values()) {
            boolean there = context.values(environment).containsKey(name);
            needs.add(new Need(
                    "value",
                    name,
                    there ? State.READY : State.MISSING,
                    there ? "" : environment + " has no value “" + name + "”: set it in Settings, Environments.",
                    "/settings?tab=environments"));
        }
        for (Expiries.Expiry each : expiries.soon()) {
            boolean its =
                    endpoints.keySet().stream().anyMatch(name -> each.where().contains(name + " in " + environment));
            if (its) {
                needs.add(new Need(
                        "certificate",
                        each.name(),
                        each.ended() ? State.MISSING : State.SOON,
                        (each.ended() ? "It ended at " : "It ends at ") + each.validUntil() + ".",
                        "/settings?tab=secrets"));
            }
        }
        return needs;
    }

    /** Returns whether nothing is missing. */
    public static boolean ready(List<Need> needs) {
        return needs.stream().noneMatch(need -> need.state() == State.MISSING);
    }

    private static Need standIns(CompiledFlow flow, FlowProblem problem, String environment) {
        return new Need(
                "flow",
                flow.file().name(),
                State.MISSING,
                "What stands for a dataset of it in " + environment + " differs: " + problem.message(),
                "/settings?tab=environments");
    }

    private static Need itself(long id, CompiledFlow flow) {
        String why = flow.problems().isEmpty()
                ? flow.runnable() ? "" : "A stage is not finished."
                : flow.problems().get(0).message();
        boolean fine = flow.runnable();
        return new Need(
                "flow",
                flow.file().name(),
                fine ? flow.problems().isEmpty() ? State.READY : State.SOON : State.MISSING,
                why,
                "/flows/" + id);
    }

    /** A secret that a fill of a call sends, where it is not there. */
    private Need fills(CompiledCall call, String environment) {
        if (call.secrets().isEmpty() && call.keys().isEmpty()) {
            return null;
        }
        Set<String> all = new TreeSet<>(call.secrets());
        all.addAll(call.keys());
        String names = String.join(", ", all);
        try {
            context.route(call, environment);
            return new Need("secret", names, State.READY, "", "/settings?tab=secrets");
        } catch (Problem e) {
            return e.code().startsWith("secret")
                    ? new Need("secret", names, State.MISSING, e.getMessage(), "/settings?tab=secrets")
                    : null;
        }
    }

    private Need endpoint(String name, CompiledCall call, String environment, boolean tried) {
        String page = "/settings?tab=endpoints";
        try {
            Endpoints.Route route = context.route(call, environment);
            HostRule rule = hosts;
            rule.check(URI.create(route.reach().address()));
            if (!tried) {
                return new Need("endpoint", name, State.READY, route.reach().address(), page);
            }
            Probe probe = trials.of(name, route);
            String last = probe.steps().stream()
                    .filter(step -> !step.works())
                    .findFirst()
                    .map(step -> step.name() + ": " + step.detail())
                    .orElse("");
            return probe.works()
                    ? new Need("endpoint", name, State.TRIED, route.reach().address() + " answers.", page)
                    : new Need(
                            "endpoint",
                            name,
                            State.MISSING,
                            route.reach().masking().mask(last),
                            page);
        } catch (Problem e) {
            return new Need("endpoint", name, State.MISSING, e.getMessage(), page);
        } catch (HostRefused e) {
            return new Need("endpoint", name, State.MISSING, e.getMessage(), "/settings?tab=hosts");
        } catch (IOException | IllegalArgumentException e) {
            return new Need("endpoint", name, State.MISSING, String.valueOf(e.getMessage()), page);
        }
    }

    private Need dataset(String name, boolean read, boolean tried) {
        DatasetMapper.Row row = datasets.byName(name);
        if (row == null) {
            return new Need(
                    "dataset",
                    name,
                    State.MISSING,
                    "There is no dataset of this name: add it, or pick another.",
                    "/datasets");
        }
        String page = "/datasets/" + row.id();
        var spec = DatasetStore.spec(row);
        if (DatasetStore.folder(spec)) {
            boolean there = Files.isDirectory(store.file(spec));
            return new Need(
                    "folder", name, there ? State.READY : State.MISSING, there ? "" : "The folder is not there.", page);
        }
        boolean looks = read || spec.kind().sql() && tried;
        if (!looks) {
            return new Need("dataset", name, State.READY, "", page);
        }
        try (RecordSource source = store.open(row)) {
            source.next();
            return new Need("dataset", name, State.TRIED, "It can be read.", page);
        } catch (Problem | IOException e) {
            return new Need("dataset", name, State.MISSING, String.valueOf(e.getMessage()), page);
        }
    }
}
