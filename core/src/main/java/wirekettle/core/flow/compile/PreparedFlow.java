package wirekettle.core.flow.compile;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.stream.Stream;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Script;
import wirekettle.core.expression.WirePath;
import wirekettle.core.fill.EmbeddedDocument;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.fill.MessageStyle;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.record.ReplyDocuments;
import wirekettle.core.record.RowMaker;
import wirekettle.core.request.FillPlan;
import wirekettle.core.schema.SheetField;
import wirekettle.core.value.Column;
import wirekettle.core.value.Grouping;
import wirekettle.core.value.Layout;

/** A flow compiled against its contracts: plans, conditions and everything wrong with it. Safe for several threads. */
public final class PreparedFlow {
    /** A compiled condition. */
    public record Test(Delivery.Condition condition, Expressions.Compiled expression) {}

    /** A compiled Map stage. */
    public record Mapped(Stage.Map stage, Script script) {}

    /** A compiled Write stage; rows is null when it cannot work. */
    public record Written(Stage.Write stage, RowMaker rows) {}

    private final FlowFile file;
    private final Around around;
    private final List<FlowProblem> problems = new ArrayList<>();
    private final Set<String> known = new LinkedHashSet<>();
    private final Map<String, Layout> inReach = new HashMap<>();
    private Stage.Read read;
    private Stage.Call call;
    private Contract contract;
    private Offered offered;
    private FillPlan request;
    private WirePath key;
    private ReplyDocuments replyDocuments = new ReplyDocuments(List.of());
    private final List<Mapped> before = new ArrayList<>();
    private final List<Mapped> after = new ArrayList<>();
    private final List<Written> writes = new ArrayList<>();
    private Written rejects;
    private final List<Test> tests = new ArrayList<>();
    private final Map<String, Set<String>> knownAt = new LinkedHashMap<>();

    /**
     * What a flow is compiled against.
     *
     * @param contracts the contracts by name; a missing one becomes a problem
     * @param layouts the layouts of the datasets read, by name; what is not there leaves wires into it unchecked
     * @param styles how endpoints want their messages written, by endpoint name
     * @param context the expression engine and the code tables
     */
    public record Around(
            Map<String, Contract> contracts,
            Map<String, Layout> layouts,
            Map<String, MessageStyle> styles,
            MappingContext context) {
        /** Keeps its own copies. */
        public Around {
            contracts = Map.copyOf(contracts);
            layouts = layouts == null ? Map.of() : Map.copyOf(layouts);
            styles = Map.copyOf(styles);
        }
    }

    private PreparedFlow(FlowFile file, Around around) {
        this.file = file;
        this.around = around;
    }

    /** Compiles a flow without code tables; layouts may be null. */
    public static PreparedFlow of(
            FlowFile file, Map<String, Contract> contracts, Map<String, Layout> layouts, Expressions expressions) {
        return of(file, new Around(contracts, layouts, Map.of(), MappingContext.of(expressions)));
    }

    /** Compiles a flow. */
    public static PreparedFlow of(FlowFile file, Around around) {
        PreparedFlow flow = new PreparedFlow(file, around);
        flow.prepare();
        return flow;
    }

    private void prepare() {
        Set<String> ids = new LinkedHashSet<>();
        known.add("run");
        for (Stage stage : file.stages()) {
            if (stage.id() == null || !ids.add(stage.id())) {
                problem(stage.id(), "the stage's id is missing or used twice");
            }
            knownAt.put(stage.id(), Set.copyOf(known));
            if (stage instanceof Stage.Read reading) {
                prepareRead(reading);
            } else if (stage instanceof Stage.Map mapping) {
                prepareMap(mapping);
            } else if (stage instanceof Stage.Call calling) {
                prepareCall(calling);
            } else if (stage instanceof Stage.Write writing) {
                writes.add(prepareWrite(writing, known));
            }
        }
        require(read != null, "Read", "the flow reads no dataset: add a Read stage");
        require(call != null, "Call", "the flow calls no operation: add a Call stage");
        require(!writes.isEmpty(), "Write", "the flow writes nowhere: add a Write stage");
        if (!StageOrder.holds(file.stages())) {
            problem(null, StageOrder.RULE);
        }
    }

    private void problem(String stage, String message) {
        problems.add(new FlowProblem(stage, null, null, message));
    }

    private void require(boolean there, String verb, String message) {
        if (!there) {
            problem(verb.toLowerCase(Locale.ROOT), message);
        }
    }

    private void prepareRead(Stage.Read reading) {
        read = reading;
        if (reading.dataset() == null || reading.dataset().isBlank()) {
            problem(reading.id(), "no dataset is read: pick one");
        }
        known.add(reading.as());
        Layout layout = around.layouts().get(String.valueOf(reading.dataset()));
        if (layout != null) {
            inReach.put(reading.as(), layout);
            for (String field : reading.groupBy()) {
                if (!names(layout).contains(field)) {
                    problem(reading.id(), "rows are grouped by " + field + ", which is not a field of the dataset");
                }
            }
        }
        key = reading.key() == null || reading.key().isBlank() ? null : WirePath.parse(reading.key());
    }

    private static List<String> names(Layout layout) {
        return layout.columns().stream().map(Column::name).toList();
    }

    private void prepareMap(Stage.Map mapping) {
        Script script = null;
        try {
            String input = mapping.input() == null ? read == null ? "" : read.as() : mapping.input();
            script = Script.of(
                    mapping.language(),
                    mapping.text(),
                    input,
                    known,
                    around.context().expressions());
        } catch (ExpressionProblem e) {
            problem(mapping.id(), (e.line() > 0 ? "line " + e.line() + ": " : "") + e.getMessage());
        }
        (call == null ? before : after).add(new Mapped(mapping, script));
        known.add(mapping.as());
    }

    private void prepareCall(Stage.Call calling) {
        if (call != null) {
            return; // said by the order
        }
        call = calling;
        contract = around.contracts().get(String.valueOf(calling.contract()));
        if (contract == null) {
            problem(calling.id(), "the contract “" + calling.contract() + "” is not there: import it");
            return;
        }
        offered = contract.operation(calling.service(), calling.port(), calling.operation())
                .orElse(null);
        if (offered == null) {
            problem(
                    calling.id(),
                    "the contract has no operation " + calling.operation() + " at port " + calling.port()
                            + ": pick another");
            return;
        }
        checkWires(calling.id(), calling.fills());
        if (!offered.port().callable() || !offered.operation().kind().callable()) {
            problem(
                    calling.id(),
                    "operation " + calling.operation() + " cannot be called: "
                            + (offered.port().callable()
                                    ? offered.operation().kind().label()
                                    : "its port speaks neither SOAP nor HTTP"));
        }
        prepareDocuments(calling);
        String endpoint = calling.endpoint() == null ? "" : calling.endpoint();
        request = FillPlan.compile(
                contract,
                offered.operation().input(),
                offered.port().soapVersion(),
                calling.fills(),
                known,
                around.context()
                        .with(around.styles().getOrDefault(endpoint, MessageStyle.PLAIN))
                        .with(calling.documents()));
        say(calling.id(), request.designProblems());
        Set<String> failing = new LinkedHashSet<>(known);
        known.add(calling.as());
        for (Delivery.Condition condition : calling.delivery().failedWhen()) {
            try {
                tests.add(new Test(condition, around.context().expressions().compile(condition.expression(), known)));
            } catch (ExpressionProblem e) {
                problems.add(new FlowProblem(
                        calling.id(), null, condition.id(), "counts as failed when: " + e.getMessage()));
            }
        }
        if (calling.rejects() != null) {
            failing.addAll(List.of("failure", "fault", calling.as()));
            knownAt.put(calling.rejects().id(), Set.copyOf(failing));
            rejects = prepareWrite(calling.rejects(), failing);
        }
    }

    private void prepareDocuments(Stage.Call calling) {
        List<EmbeddedDocument> sound = new ArrayList<>();
        for (EmbeddedDocument document : calling.documents()) {
            try {
                document.shape();
                sound.add(document);
            } catch (IllegalArgumentException e) {
                problems.add(new FlowProblem(calling.id(), document.path(), null, e.getMessage()));
            }
        }
        replyDocuments = new ReplyDocuments(sound);
    }

    private void say(String stage, List<MappingProblem> wrong) {
        wrong.forEach(
                p -> problems.add(new FlowProblem(stage, p.field(), p.fillId(), p.shortField() + " " + p.message())));
    }

    private Written prepareWrite(Stage.Write writing, Set<String> reach) {
        checkWires(writing.id(), writing.fills());
        return new WritePreparation(writing, problems).prepared(reach, around.context());
    }

    private void checkWires(String stage, List<Fill> fills) {
        for (Fill fill : fills) {
            if (fill.wire() != null && WirePath.isPath(fill.wire())) {
                WirePath wire = WirePath.parse(fill.wire());
                Layout layout = inReach.get(wire.variable());
                boolean line = read != null
                        && !read.groupBy().isEmpty()
                        && !wire.steps().isEmpty()
                        && wire.steps().get(0).equals(Grouping.LINE);
                if (layout != null
                        && !line
                        && wire.steps().size() == 1
                        && !names(layout).contains(wire.steps().get(0))) {
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

    /** Tells whether there is enough to run: a Read, a Call that was found, Write stages with columns. */
    public boolean runnable() {
        return read != null
                && request != null
                && !writes.isEmpty()
                && Stream.concat(before.stream(), after.stream()).allMatch(m -> m.script() != null)
                && writes.stream().allMatch(PreparedFlow::usable)
                && (rejects == null || usable(rejects));
    }

    private static boolean usable(Written write) {
        return write.rows() != null && !write.stage().columns().isEmpty();
    }

    /** Returns the Read stage, or null. */
    public Stage.Read read() {
        return read;
    }

    /** Returns the Call stage, or null. */
    public Stage.Call call() {
        return call;
    }

    /** Returns the Map stages before the call. */
    public List<Mapped> before() {
        return before;
    }

    /** Returns the Map stages after the call. */
    public List<Mapped> after() {
        return after;
    }

    /** Returns the Write stages. */
    public List<Written> writes() {
        return writes;
    }

    /** Returns where records that fail are written, or null. */
    public Written rejects() {
        return rejects;
    }

    /** Returns the Write stage of an id, that of failed records among them, or null. */
    public Written write(String id) {
        if (rejects != null && rejects.stage().id().equals(id)) {
            return rejects;
        }
        return writes.stream()
                .filter(w -> w.stage().id().equals(id))
                .findFirst()
                .orElse(null);
    }

    /** Returns the variables in reach at a stage. */
    public Set<String> knownAt(String stage) {
        return knownAt.getOrDefault(stage, Set.of());
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

    /** Returns the wire to the business key, or null. */
    public WirePath key() {
        return key;
    }

    /** Returns the compiled "counts as failed when" conditions. */
    public List<Test> tests() {
        return tests;
    }

    /** Returns the documents to open in replies. */
    public ReplyDocuments replyDocuments() {
        return replyDocuments;
    }

    /** Returns the names of the secrets fills send. */
    public Set<String> secrets() {
        Set<String> names = new LinkedHashSet<>();
        if (call != null) {
            call.fills().stream().map(Fill::secret).filter(name -> name != null).forEach(names::add);
        }
        return names;
    }

    /** Tells whether contents of replies are written to files. */
    public boolean keepsFiles() {
        return Stream.concat(writes.stream(), Stream.ofNullable(rejects))
                .flatMap(write -> write.stage().fills().stream())
                .anyMatch(fill -> fill.file() != null);
    }

    /** Returns the sheet of the reply's body with the documents in its fields; null when the operation has no reply. */
    public SheetField replySheet() {
        if (offered == null
                || offered.operation().output() == null
                || offered.operation().output().body().isEmpty()) {
            return null;
        }
        return contract.sheet(
                offered.operation().output().body().get(0), EmbeddedDocument.shapes(call.documents(), "reply"));
    }

    /** Returns the sheets of the request's parts with the documents in their fields. */
    public List<SheetField> requestSheets() {
        return offered == null
                ? List.of()
                : offered.operation().input().elements().stream()
                        .map(e -> contract.sheet(e, EmbeddedDocument.shapes(call.documents(), "request")))
                        .toList();
    }
}
