package wirekettle.server.simulators;

import jakarta.inject.Inject;
import jakarta.ws.rs.DELETE;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.HeaderParam;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.PUT;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import jakarta.ws.rs.QueryParam;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.contract.Message;
import wirekettle.core.contract.Operation;
import wirekettle.core.fill.Fill;
import wirekettle.core.schema.SheetPath;
import wirekettle.core.simulate.RuleTeacher;
import wirekettle.core.simulate.SimulatorRule;
import wirekettle.core.xml.XmlProblem;
import wirekettle.server.contracts.ContractMapper;
import wirekettle.server.contracts.ContractStore;
import wirekettle.server.settings.Endpoint;
import wirekettle.server.settings.SettingsMapper;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.uses.Uses;
import wirekettle.server.web.Edits;
import wirekettle.server.web.Json;
import wirekettle.server.web.Page;
import wirekettle.server.web.Problem;

/** Simulators: made from a contract, steered by rules, taught from kept calls. */
@Path("/api")
public class SimulatorResource {
    @Inject
    SimulatorMapper mapper;

    @Inject
    Simulators simulators;

    @Inject
    ContractStore contracts;

    @Inject
    ContractMapper contractRows;

    @Inject
    SettingsMapper settings;

    @Inject
    Lessons lessons;

    @Inject
    CurrentPerson current;

    @Inject
    Uses uses;

    /**
     * A simulator.
     *
     * @param version changes with every change; If-Match wants it
     * @param address where it answers
     * @param received how many requests of it are kept
     * @param endpoints the endpoints it answers for in the environment Simulator
     */
    @Schema(
            name = "Simulator",
            requiredProperties = {
                "id",
                "name",
                "contractId",
                "contract",
                "version",
                "running",
                "address",
                "rules",
                "received",
                "endpoints",
                "madeBy",
                "madeAt"
            })
    public record SimulatorView(
            long id,
            String name,
            long contractId,
            String contract,
            int version,
            boolean running,
            String address,
            List<SimulatorRule> rules,
            long received,
            List<String> endpoints,
            String madeBy,
            Instant madeAt) {}

    /** A simulator to make; it answers for the endpoint of the contract's name at once. */
    @Schema(
            name = "NewSimulator",
            requiredProperties = {"contract"})
    public record Made(long contract, String name) {}

    /** A simulator as it is to be. */
    @Schema(
            name = "SimulatorChange",
            requiredProperties = {"name", "rules", "running"})
    public record Change(String name, List<SimulatorRule> rules, boolean running) {}

    /** An endpoint a simulator is to answer for. */
    @Schema(
            name = "SimulatorUse",
            requiredProperties = {"endpoint"})
    public record Use(String endpoint) {}

    /** A kept exchange to learn from: a call of the bench, or a record of a run. */
    @Schema(name = "SimulatorLesson")
    public record Lesson(Long call, Long run, Long record) {}

    private SimulatorMapper.Row row(long id) {
        SimulatorMapper.Row row = mapper.byId(id);
        if (row == null) {
            throw Problem.missing("simulator");
        }
        return row;
    }

    private SimulatorView told(SimulatorMapper.Row row) {
        List<String> endpoints = settings.endpoints().stream()
                .filter(endpoint -> row.id().equals(endpoint.simulator()))
                .map(Endpoint::name)
                .toList();
        return new SimulatorView(
                row.id(),
                row.name(),
                row.contractId(),
                row.contract(),
                row.version(),
                row.running(),
                simulators.address(row.id()),
                Simulators.rules(row),
                row.received(),
                endpoints,
                row.madeBy(),
                row.madeAt());
    }

    /** Returns simulators. */
    @GET
    @Path("simulators")
    public Page<SimulatorView> all(
            @QueryParam("q") String q, @QueryParam("page") Integer page, @QueryParam("size") Integer size) {
        String like = Page.like(q);
        return new Page<>(
                mapper.page(like, Page.size(size), Page.offset(page, size)).stream()
                        .map(this::told)
                        .toList(),
                mapper.count(like));
    }

    /** Makes a simulator of a contract, running and without rules: it answers with valid examples. */
    @POST
    @Needs(Right.BUILD)
    @Path("simulators")
    public SimulatorView make(Made given) {
        ContractMapper.Row contract = contractRows.byId(given.contract());
        if (contract == null) {
            throw Problem.missing("contract");
        }
        String wanted = given.name() == null || given.name().isBlank()
                ? contract.name()
                : given.name().strip();
        String name = wanted;
        List<String> taken = mapper.page("%", 10_000, 0).stream()
                .map(SimulatorMapper.Row::name)
                .toList();
        for (int i = 2; taken.contains(name); i++) {
            name = wanted + " " + i;
        }
        long id = mapper.add(name, given.contract(), current.get().name());
        simulators.serve(row(id));
        Endpoint endpoint = settings.endpoint(contract.name());
        if (endpoint == null || endpoint.simulator() == null) {
            settings.add(contract.name());
            settings.simulator(contract.name(), id);
        }
        return told(row(id));
    }

    /** Returns a simulator. */
    @GET
    @Path("simulators/{id}")
    public SimulatorView one(@PathParam("id") long id) {
        return told(row(id));
    }

    /** Changes a simulator; a stale version is refused with 409. */
    @PUT
    @Needs(Right.BUILD)
    @Path("simulators/{id}")
    public SimulatorView change(@PathParam("id") long id, @HeaderParam("If-Match") Integer version, Change given) {
        SimulatorMapper.Row row = row(id);
        String name = Edits.name("A simulator", given.name());
        List<SimulatorRule> rules = given.rules() == null ? List.of() : given.rules();
        List<String> problems = problems(contracts.get(row.contractId()), rules);
        if (!problems.isEmpty()) {
            throw new Problem(422, "bad-rules", String.join(" ", problems)).with("problems", problems);
        }
        String text = Json.write(rules);
        if (mapper.change(id, version == null ? row.version() : version, name, text, given.running()) == 0) {
            throw new Problem(409, "changed", "Someone else changed this simulator meanwhile; look at it again.")
                    .with("theirs", told(row(id)));
        }
        simulators.serve(row(id));
        return told(row(id));
    }

    private static List<String> problems(Contract contract, List<SimulatorRule> rules) {
        List<String> problems = new ArrayList<>();
        for (int i = 0; i < rules.size(); i++) {
            SimulatorRule rule = rules.get(i);
            String which = "Rule " + (i + 1) + ": ";
            Operation operation = contract.operations().stream()
                    .map(Offered::operation)
                    .filter(o -> o.key().equals(rule.operation()))
                    .findFirst()
                    .orElse(null);
            if (operation == null) {
                problems.add(which + "the contract has no operation “" + rule.operation() + "”.");
            }
            if (rule.delayMillis() != null && (rule.delayMillis() < 0 || rule.delayMillis() > 600_000)) {
                problems.add(which + "a delay is 0 to 600,000 ms.");
            }
            if (operation == null) {
                continue;
            }
            for (SimulatorRule.Match match : rule.matches()) {
                if (!known(contract, operation.input(), match.field())) {
                    problems.add(which + "the request has no field “" + match.field() + "”.");
                }
                if (match.value() == null) {
                    problems.add(which + "a field to compare needs a value, empty for a field that is not there.");
                }
            }
            for (Fill fill : rule.fills()) {
                if (!known(contract, answered(operation, rule), fill.target())) {
                    problems.add(which + "the answer has no field “" + fill.target() + "”.");
                }
            }
        }
        return problems;
    }

    private static Message answered(Operation operation, SimulatorRule rule) {
        if (rule.fault() == null) {
            return operation.output() == null ? Message.EMPTY : operation.output();
        }
        return operation.faults().stream()
                .filter(fault -> fault.name().equals(rule.fault()))
                .map(Operation.Fault::message)
                .findFirst()
                .orElse(new Message(rule.fault(), List.of(), operation.input().headerFaults()));
    }

    private static boolean known(Contract contract, Message message, String path) {
        try {
            SheetPath.parse(path);
        } catch (IllegalArgumentException e) {
            return false;
        }
        // further occurrences are fields like the first
        String first = path.replaceAll("#\\d+", "");
        return message.elements().stream()
                .anyMatch(element -> contract.sheet(element).find(first) != null);
    }

    /** Lets a simulator answer for an endpoint in the environment Simulator. */
    @POST
    @Needs(Right.BUILD)
    @Path("simulators/{id}/endpoints")
    public SimulatorView use(@PathParam("id") long id, Use given) {
        SimulatorMapper.Row row = row(id);
        if (given.endpoint() == null || given.endpoint().isBlank()) {
            throw new Problem(400, "bad-name", "Name the endpoint it is to answer for.");
        }
        settings.add(given.endpoint().strip());
        settings.simulator(given.endpoint().strip(), id);
        return told(row);
    }

    /**
     * Lets the simulator of an exchange's contract answer as the real service did; it is made when there is none.
     */
    @POST
    @Needs(Right.BUILD)
    @Path("simulator-lessons")
    public SimulatorView learn(Lesson given) throws XmlProblem {
        Lessons.Exchange exchange = lessons.exchange(given.call(), given.run(), given.record());
        SimulatorMapper.Row row = mapper.page("%", 10_000, 0).stream()
                .filter(each -> each.contractId() == exchange.contract())
                .findFirst()
                .orElseGet(() -> row(make(new Made(exchange.contract(), null)).id()));
        Contract contract = contracts.get(row.contractId());
        Offered offered = contract.operation(null, exchange.port(), exchange.operation())
                .orElseThrow(() -> new Problem(
                        422,
                        "nothing-to-learn",
                        "The contract has no operation “" + exchange.operation() + "” any more."));
        List<SimulatorRule> rules = new ArrayList<>();
        rules.add(RuleTeacher.of(contract, offered, exchange.request(), exchange.reply(), exchange.status()));
        rules.addAll(Simulators.rules(row));
        mapper.change(row.id(), row.version(), row.name(), Json.write(rules), row.running());
        simulators.serve(row(row.id()));
        return told(row(row.id()));
    }

    /** Returns what a simulator received, the newest first. */
    @GET
    @Path("simulators/{id}/requests")
    public Page<SimulatorMapper.Received> requests(
            @PathParam("id") long id,
            @QueryParam("q") String q,
            @QueryParam("page") Integer page,
            @QueryParam("size") Integer size) {
        String like = Page.like(q);
        return new Page<>(
                mapper.requests(id, like, Page.size(size), Page.offset(page, size)), mapper.requestCount(id, like));
    }

    /** Forgets what a simulator received. */
    @DELETE
    @Needs(Right.BUILD)
    @Path("simulators/{id}/requests")
    public void forget(@PathParam("id") long id) {
        mapper.forget(id, 0);
    }

    /** Removes a simulator. */
    @DELETE
    @Needs(Right.BUILD)
    @Path("simulators/{id}")
    public void remove(@PathParam("id") long id) {
        SimulatorMapper.Row row = row(id);
        current.mustOwn(row.madeBy(), "The simulator “" + row.name() + "”");
        uses.mustBeFree(Uses.Kind.SIMULATOR, row.name(), "The simulator “" + row.name() + "”");
        mapper.remove(id);
        simulators.remove(id);
    }
}
