package wirekettle.core.flow;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.mapping.ExpressionProblem;
import wirekettle.core.mapping.Expressions;
import wirekettle.core.mapping.Fill;
import wirekettle.core.mapping.FillPlan;
import wirekettle.core.mapping.MessageStyle;
import wirekettle.core.mapping.RecordPlan;
import wirekettle.core.mapping.WirePath;
import wirekettle.core.schema.SheetField;
import wirekettle.core.value.Column;
import wirekettle.core.value.Layout;

/** A flow compiled against its contracts: plans, conditions and everything wrong with it. Safe for several threads. */
public final class PreparedFlow {
    /** A compiled condition. */
    public record Test(Delivery.Condition condition, Expressions.Compiled expression) {}

    private final FlowFile file;
    private Map<String, MessageStyle> styles;
    private final List<FlowProblem> problems = new ArrayList<>();
    private Stage.Read read;
    private Stage.Call call;
    private Stage.Write write;
    private Contract contract;
    private Offered offered;
    private FillPlan request;
    private RecordPlan rows;
    private WirePath key;
    private final List<Test> tests = new ArrayList<>();

    private PreparedFlow(FlowFile file) {
        this.file = file;
    }

    /**
     * Compiles a flow.
     *
     * @param contracts the contracts by name; a missing one becomes a problem
     * @param layouts the layouts of the datasets read, by name; null leaves wires into them unchecked
     */
    public static PreparedFlow of(
            FlowFile file, Map<String, Contract> contracts, Map<String, Layout> layouts, Expressions expressions) {
        return of(file, contracts, layouts, Map.of(), expressions);
    }

    /** Compiles a flow for endpoints that want their messages written in styles of their own, by endpoint name. */
    public static PreparedFlow of(
            FlowFile file,
            Map<String, Contract> contracts,
            Map<String, Layout> layouts,
            Map<String, MessageStyle> styles,
            Expressions expressions) {
        PreparedFlow flow = new PreparedFlow(file);
        flow.styles = styles;
        flow.prepare(contracts, layouts == null ? Map.of() : layouts, expressions);
        return flow;
    }

    private void prepare(Map<String, Contract> contracts, Map<String, Layout> layouts, Expressions expressions) {
        Set<String> ids = new LinkedHashSet<>();
        Set<String> known = new LinkedHashSet<>();
        Map<String, Layout> inReach = new HashMap<>();
        known.add("run");
        for (Stage stage : file.stages()) {
            if (stage.id() == null || !ids.add(stage.id())) {
                problems.add(new FlowProblem(stage.id(), null, null, "the stage's id is missing or used twice"));
            }
            if (stage instanceof Stage.Read reading) {
                read = reading;
                if (reading.dataset() == null || reading.dataset().isBlank()) {
                    problems.add(new FlowProblem(reading.id(), null, null, "no dataset is read: pick one"));
                }
                known.add(reading.as());
                if (layouts.containsKey(reading.dataset())) {
                    inReach.put(reading.as(), layouts.get(reading.dataset()));
                }
                key = reading.key() == null || reading.key().isBlank() ? null : WirePath.parse(reading.key());
            } else if (stage instanceof Stage.Call calling) {
                prepareCall(calling, contracts, known, inReach, expressions);
            } else if (stage instanceof Stage.Write writing) {
                prepareWrite(writing, known, inReach, expressions);
            }
        }
        require(read, "Read", "the flow reads no dataset: add a Read stage");
        require(call, "Call", "the flow calls no operation: add a Call stage");
        require(write, "Write", "the flow writes nowhere: add a Write stage");
        long calls = file.stages().stream().filter(Stage.Call.class::isInstance).count();
        if (calls > 1 || file.stages().size() > 3) {
            problems.add(
                    new FlowProblem(null, null, null, "a flow has one Read, one Call and one Write stage for now"));
        }
    }

    private void require(Stage stage, String verb, String message) {
        if (stage == null) {
            problems.add(new FlowProblem(verb.toLowerCase(java.util.Locale.ROOT), null, null, message));
        }
    }

    private void prepareCall(
            Stage.Call calling,
            Map<String, Contract> contracts,
            Set<String> known,
            Map<String, Layout> inReach,
            Expressions expressions) {
        call = calling;
        contract = contracts.get(calling.contract());
        if (contract == null) {
            problems.add(new FlowProblem(
                    calling.id(), null, null, "the contract “" + calling.contract() + "” is not there: import it"));
            return;
        }
        offered = contract.operation(calling.service(), calling.port(), calling.operation())
                .orElse(null);
        if (offered == null) {
            problems.add(new FlowProblem(
                    calling.id(),
                    null,
                    null,
                    "the contract has no operation " + calling.operation() + " at port " + calling.port()
                            + ": pick another"));
            return;
        }
        checkWires(calling.id(), calling.fills(), inReach);
        if (!offered.port().callable() || !offered.operation().kind().callable()) {
            problems.add(new FlowProblem(
                    calling.id(),
                    null,
                    null,
                    "operation " + calling.operation() + " cannot be called: "
                            + (offered.port().callable()
                                    ? offered.operation().kind().label()
                                    : "its port speaks neither SOAP nor HTTP")));
        }
        request = FillPlan.compile(
                contract,
                offered.operation().input(),
                offered.port().soapVersion(),
                calling.fills(),
                known,
                expressions,
                styles.getOrDefault(calling.endpoint() == null ? "" : calling.endpoint(), MessageStyle.PLAIN));
        request.designProblems()
                .forEach(p -> problems.add(
                        new FlowProblem(calling.id(), p.field(), p.fillId(), p.shortField() + " " + p.message())));
        known.add(calling.as());
        for (Delivery.Condition condition : calling.delivery().failedWhen()) {
            try {
                tests.add(new Test(condition, expressions.compile(condition.expression(), known)));
            } catch (ExpressionProblem e) {
                problems.add(new FlowProblem(
                        calling.id(), null, condition.id(), "counts as failed when: " + e.getMessage()));
            }
        }
    }

    private void prepareWrite(
            Stage.Write writing, Set<String> known, Map<String, Layout> inReach, Expressions expressions) {
        write = writing;
        Map<String, Column> columns = new HashMap<>();
        writing.columns().forEach(c -> columns.put(c.name(), c));
        List<RecordPlan.Target> targets = new ArrayList<>();
        Map<String, Fill> byColumn = new HashMap<>();
        for (Fill fill : writing.fills()) {
            byColumn.put(fill.target(), fill);
            if (!columns.containsKey(fill.target())) {
                problems.add(new FlowProblem(
                        writing.id(), fill.target(), fill.id(), fill.target() + " is no column of the target"));
            }
        }
        for (Column column : writing.columns()) {
            Fill fill = byColumn.get(column.name());
            if (fill == null && column.required()) {
                problems.add(new FlowProblem(
                        writing.id(), column.name(), null, column.name() + " is required and not filled"));
            }
            targets.add(new RecordPlan.Target(
                    fill == null ? Fill.constant(null, column.name(), "") : fill, column.type(), column.required()));
        }
        checkWires(writing.id(), writing.fills(), inReach);
        if (writing.dataset() == null || writing.dataset().isBlank()) {
            problems.add(new FlowProblem(writing.id(), null, null, "no dataset is written to: pick or add one"));
        }
        if (writing.columns().isEmpty()) {
            problems.add(new FlowProblem(
                    writing.id(),
                    null,
                    null,
                    "the record written has no columns yet: " + "make a record of everything, or add columns"));
        }
        if (writing.mode().equals("upsert") && writing.keys().isEmpty()) {
            problems.add(new FlowProblem(writing.id(), null, null, "upsert needs the columns it is decided by"));
        }
        try {
            rows = new RecordPlan(writing.rows(), targets, known, expressions);
            rows.designProblems()
                    .forEach(p -> problems.add(
                            new FlowProblem(writing.id(), p.field(), p.fillId(), p.shortField() + " " + p.message())));
        } catch (IllegalArgumentException e) {
            problems.add(new FlowProblem(writing.id(), null, null, "one row for each: " + e.getMessage()));
        }
    }

    private void checkWires(String stage, List<Fill> fills, Map<String, Layout> inReach) {
        for (Fill fill : fills) {
            if (fill.wire() != null && WirePath.isPath(fill.wire())) {
                WirePath wire = WirePath.parse(fill.wire());
                Layout layout = inReach.get(wire.variable());
                if (layout != null
                        && wire.steps().size() == 1
                        && layout.columns().stream()
                                .noneMatch(c -> c.name().equals(wire.steps().get(0)))) {
                    problems.add(new FlowProblem(
                            stage, fill.target(), fill.id(), fill.wire() + " is not a field of the dataset any more"));
                }
            }
        }
    }

    /** Returns the flow file. */
    public FlowFile file() {
        return file;
    }

    /** Returns everything wrong; a flow with problems can be worked on and tried, records it hits are rejected. */
    public List<FlowProblem> problems() {
        return List.copyOf(problems);
    }

    /** Tells whether there is enough to run: a Read, a Call that was found, a Write with columns. */
    public boolean runnable() {
        return read != null
                && request != null
                && rows != null
                && !write.columns().isEmpty();
    }

    /** Returns the Read stage, or null. */
    public Stage.Read read() {
        return read;
    }

    /** Returns the Call stage, or null. */
    public Stage.Call call() {
        return call;
    }

    /** Returns the Write stage, or null. */
    public Stage.Write write() {
        return write;
    }

    /** Returns the contract called, or null. */
    public Contract contract() {
        return contract;
    }

    /** Returns the operation called, or null. */
    public Offered offered() {
        return offered;
    }

    /** Returns the request plan, or null. */
    public FillPlan request() {
        return request;
    }

    /** Returns the row plan, or null. */
    public RecordPlan rows() {
        return rows;
    }

    /** Returns the path of the business key, or null. */
    public WirePath key() {
        return key;
    }

    /** Returns the compiled "counts as failed when" conditions. */
    public List<Test> tests() {
        return tests;
    }

    /** Returns the sheet of the reply's body element, or null when there is none. */
    public SheetField replySheet() {
        if (offered == null
                || offered.operation().output() == null
                || offered.operation().output().body().isEmpty()) {
            return null;
        }
        return contract.sheet(offered.operation().output().body().get(0));
    }
}
