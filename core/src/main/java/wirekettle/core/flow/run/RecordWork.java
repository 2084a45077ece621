package wirekettle.core.flow.run;

import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.Clock;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.flow.compile.PreparedFlow;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.flow.run.LedgerLine.Attempt;
import wirekettle.core.flow.run.LedgerLine.Exchange;
import wirekettle.core.request.ByteOut;
import wirekettle.core.schema.SheetField;
import wirekettle.core.soap.CallFailure;
import wirekettle.core.soap.CallRoom;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.MemoryBudget;
import wirekettle.core.soap.Reach;
import wirekettle.core.soap.Reply;
import wirekettle.core.soap.attachments.Attachments;
import wirekettle.core.soap.attachments.Xop;
import wirekettle.core.value.Content;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeWriter;

/** Takes one record its whole way: map, call with retries, judge, make rows. Safe for several threads. */
public final class RecordWork {
    private static final ThreadLocal<ByteOut> BUFFER = ThreadLocal.withInitial(ByteOut::new);

    private final PreparedFlow flow;
    private final Caller caller;
    private final Reach reach;
    private final String runId;
    private final String sourceName;
    private final String started;
    private final Clock clock;
    private final SheetField replySheet;
    private final MemoryBudget memory;

    /** Makes the work of one run that has the memory for itself. */
    public RecordWork(PreparedFlow flow, Caller caller, Reach reach, String runId, String sourceName, Clock clock) {
        this(flow, caller, reach, runId, sourceName, clock, MemoryBudget.NONE);
    }

    /**
     * Makes the work of one run.
     *
     * @param reach how the endpoint is reached; the secrets fills send come from there and are hidden in what is kept
     * @param memory where room for long answers is asked for
     */
    public RecordWork(
            PreparedFlow flow,
            Caller caller,
            Reach reach,
            String runId,
            String sourceName,
            Clock clock,
            MemoryBudget memory) {
        this.memory = memory;
        this.flow = flow;
        this.caller = caller;
        this.reach = reach;
        for (String secret : flow.secrets()) {
            reach.secret(secret); // hidden from now on
        }
        this.runId = runId;
        this.sourceName = sourceName;
        this.clock = clock;
        this.started = clock.instant().truncatedTo(ChronoUnit.MILLIS).toString();
        this.replySheet = flow.replySheet();
    }

    /**
     * What became of one record.
     *
     * @param line its ledger line
     * @param rows its rows by the ids of the Write stages they go to
     */
    public record Done(LedgerLine line, Map<String, List<String[]>> rows) {}

    /** Ends waiting between retries. */
    public interface Stop {
        /** Tells whether the run is being cancelled. */
        boolean stopped();
    }

    /** Returns the variables in reach before the call. */
    public Scope scope(long ordinal, Node record) {
        Node run = Node.build(Name.of("run"))
                .add("id", runId)
                .add("started", started)
                .add("now", clock.instant().truncatedTo(ChronoUnit.MILLIS).toString())
                .add("record", Long.toString(ordinal))
                .add("source", sourceName)
                .done();
        return Scope.of(reach.secrets(), reach.folders())
                .with("run", run)
                .with(flow.read().as(), record);
    }

    /** Returns a scope with what Map stages make; the first that fails is told by its stage. */
    public static Scope mapped(Scope scope, List<PreparedFlow.Mapped> maps) throws MapFailed {
        Scope at = scope;
        for (PreparedFlow.Mapped map : maps) {
            if (map.script() == null) {
                throw new MapFailed(map.stage(), "the script is not sound");
            }
            try {
                at = at.with(map.stage().as(), map.script().result(at));
            } catch (ExpressionProblem e) {
                throw new MapFailed(map.stage(), (e.line() > 0 ? "line " + e.line() + ": " : "") + e.getMessage());
            }
        }
        return at;
    }

    /** A Map stage that failed for a record. */
    public static final class MapFailed extends Exception {
        private final Stage.Map stage;

        MapFailed(Stage.Map stage, String message) {
            super(message, null, false, false);
            this.stage = stage;
        }

        /** Returns the stage. */
        public Stage.Map stage() {
            return stage;
        }
    }

    /** Does all the work for one record; every failure is part of the result. */
    public Done process(long ordinal, RecordSource.Item item, Stop stop) {
        Scope scope = item.node() == null ? null : scope(ordinal, item.node());
        try (Attachments attachments = flow.keepsFiles() ? new Attachments() : null;
                MemoryBudget.Share memory = this.memory.share()) {
            Progress at = new Progress(ordinal, item.node(), new CallRoom(attachments, memory));
            try {
                return processed(at, item, scope, stop);
            } catch (Rejected e) {
                return at.done(e, scope);
            } catch (Content.TooLarge e) {
                String stage = flow.call().id();
                return at.done(
                        new Rejected(FailureClass.MAPPING, "attachment too large", e.getMessage(), stage, null), scope);
            }
        }
    }

    private Done processed(Progress at, RecordSource.Item item, Scope given, Stop stop) throws Rejected {
        if (item.problem() != null) {
            throw new Rejected(
                    FailureClass.MAPPING,
                    "unusable row",
                    item.problem(),
                    flow.read().id(),
                    null);
        }
        if (flow.key() != null) {
            Node key = flow.key().first(given);
            at.key = key == null ? null : key.text();
        }
        Scope scope = mapped(given, flow.before(), FailureClass.MAPPING);
        ByteOut out = BUFFER.get();
        out.back(0);
        List<MappingProblem> problems = flow.request().write(scope, out);
        if (!problems.isEmpty()) {
            throw Rejected.of(problems, flow.call().id());
        }
        Caller.Result result = call(out.bytes(), at, stop);
        if (result.failure() != null) {
            throw failed(result.failure(), at);
        }
        return judge(scope, result.reply(), at);
    }

    private static Scope mapped(Scope scope, List<PreparedFlow.Mapped> maps, FailureClass failureClass)
            throws Rejected {
        try {
            return mapped(scope, maps);
        } catch (MapFailed e) {
            String cause = "$" + e.stage().as() + " could not be made";
            throw new Rejected(failureClass, cause, e.getMessage(), e.stage().id(), null);
        }
    }

    private Rejected failed(CallFailure failure, Progress at) {
        String stage = flow.call().id();
        if (failure.fault() != null) {
            TypedFault typed = TypedFault.of(failure.fault(), flow.offered().operation(), flow.contract());
            at.note = typed.note();
            at.fault = failure.fault().node();
            String cause = typed.name() == null ? failure.causeLabel() : typed.name();
            String detail = typed.fields().isEmpty() ? "" : " (" + String.join(", ", typed.fields()) + ")";
            return new Rejected(FailureClass.FAULT, cause, failure.getMessage() + detail, stage, null);
        }
        boolean doubtful =
                failure.sent() && !failure.answered() && !flow.call().delivery().reads();
        return new Rejected(failure.failureClass(), failure.causeLabel(), failure.getMessage(), stage, null)
                .as(doubtful ? Outcome.IN_DOUBT : Outcome.REJECTED);
    }

    private Done judge(Scope scope, Reply reply, Progress at) throws Rejected {
        String stage = flow.call().id();
        Node body = reply.body().isEmpty()
                ? Node.branch(Name.of("empty"), List.of())
                : reply.body().get(0);
        at.reply = body;
        if (replySheet != null && flow.call().delivery().strict()) {
            List<String> wrong = flow.contract()
                    .check()
                    .problems(NodeWriter.write(Xop.standIns(body), false).getBytes(StandardCharsets.UTF_8));
            if (!wrong.isEmpty()) {
                at.note = ReplyCheck.note(body, replySheet);
                throw new Rejected(FailureClass.REPLY, "reply not valid", wrong.get(0), stage, null);
            }
        }
        List<MappingProblem> problems = new ArrayList<>();
        Node opened = flow.replyDocuments().opened(body, problems);
        at.note = replySheet == null ? null : ReplyCheck.note(opened, replySheet);
        if (!problems.isEmpty()) {
            throw Rejected.of(problems, stage);
        }
        at.reply = opened;
        Scope after = scope.with(flow.call().as(), opened);
        for (PreparedFlow.Test test : flow.tests()) {
            String message = test.condition().message();
            String label =
                    message == null || message.isBlank() ? test.condition().expression() : message;
            String blame = test.condition().id();
            try {
                if (test.expression().test(after)) {
                    throw new Rejected(
                            FailureClass.CONDITION, label, "the reply counts as failed: " + label, stage, blame);
                }
            } catch (ExpressionProblem e) {
                throw new Rejected(FailureClass.CONDITION, label + " cannot be decided", e.getMessage(), stage, blame);
            }
        }
        after = mapped(after, flow.after(), FailureClass.MAPPING);
        Map<String, List<String[]>> rows = new LinkedHashMap<>();
        for (PreparedFlow.Written write : flow.writes()) {
            rows.put(write.stage().id(), write.rows().rows(after, problems));
            if (!problems.isEmpty()) {
                throw Rejected.of(problems, write.stage().id());
            }
        }
        return at.written(rows);
    }

    private Caller.Result call(byte[] envelope, Progress at, Stop stop) {
        Delivery delivery = flow.call().delivery();
        for (int number = 1; ; number++) {
            Instant start = clock.instant();
            long from = System.nanoTime();
            Caller.Result result = caller.call(envelope, at.room);
            long millis = (System.nanoTime() - from) / 1_000_000;
            CallFailure failure = result.failure();
            int status = result.answer() == null ? 0 : result.answer().status();
            at.attempts.add(new Attempt(
                    number,
                    start,
                    millis,
                    status,
                    failure == null || failure.sent(),
                    failure == null ? null : failure.getMessage()));
            at.exchange = new Exchange(
                    reach.address(),
                    kept(result.sent() == null ? reach.masking().mask(envelope) : result.sent()),
                    status,
                    kept(result.received()));
            if (failure == null
                    || number > delivery.retries()
                    || !mayRetry(failure, status, delivery)
                    || !waited(delivery.backOffMillis() << Math.min(number - 1, 10), stop)) {
                return result;
            }
        }
    }

    /** What is kept of an exchange waits in memory for the ledger: not more than the ledger would take. */
    private static byte[] kept(byte[] text) {
        return text == null || text.length <= Exchange.MOST_BYTES ? text : Arrays.copyOf(text, Exchange.MOST_BYTES);
    }

    /** What was never sent may always be sent again; what was, only when nothing changes or the user says so. */
    private static boolean mayRetry(CallFailure failure, int status, Delivery delivery) {
        boolean passing =
                switch (failure.failureClass()) {
                    case CONNECTION, TIMEOUT -> true;
                    case HTTP_STATUS -> status >= 500 || status == 429;
                    case REPLY -> true;
                    default -> false;
                };
        return passing && (!failure.sent() || delivery.reads() || delivery.resendChanges());
    }

    private static boolean waited(long millis, Stop stop) {
        long until = System.nanoTime() + millis * 1_000_000;
        try {
            while (System.nanoTime() < until) {
                if (stop.stopped()) {
                    return false;
                }
                Thread.sleep(Math.max(1, Math.min(50, (until - System.nanoTime()) / 1_000_000)));
            }
            return !stop.stopped();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            return false;
        }
    }

    /** Returns a hash of everything in a record, the same for the same input. */
    static String fingerprint(Node record) {
        try {
            MessageDigest digest = MessageDigest.getInstance("SHA-256");
            digest(record, digest);
            return HexFormat.of().formatHex(digest.digest(), 0, 12);
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java has SHA-256", e);
        }
    }

    private static void digest(Node node, MessageDigest digest) {
        digest.update(node.name().local().getBytes(StandardCharsets.UTF_8));
        digest.update((byte) 1);
        digest.update(node.text().getBytes(StandardCharsets.UTF_8));
        digest.update((byte) 2);
        node.children().forEach(child -> digest(child, digest));
    }

    /** Why a record goes no further. */
    private static final class Rejected extends Exception {
        private final FailureClass failureClass;
        private final String cause;
        private final String stage;
        private final String blame;
        private Outcome outcome = Outcome.REJECTED;
        private MappingProblem first;

        Rejected(FailureClass failureClass, String cause, String message, String stage, String blame) {
            super(message, null, false, false);
            this.failureClass = failureClass;
            this.cause = cause;
            this.stage = stage;
            this.blame = blame;
        }

        Rejected as(Outcome other) {
            outcome = other;
            return this;
        }

        static Rejected of(List<MappingProblem> problems, String stage) {
            MappingProblem first = problems.get(0);
            boolean mapping = List.of("conversion", "expression", "lookup", "document", "file")
                    .contains(first.code());
            StringBuilder all = new StringBuilder(first.sentence());
            problems.stream().skip(1).limit(4).forEach(p -> all.append("; ").append(p.sentence()));
            Rejected why = new Rejected(
                    mapping ? FailureClass.MAPPING : FailureClass.VALIDATION,
                    first.group(),
                    all.toString(),
                    stage,
                    first.fillId() == null ? first.field() : first.fillId());
            why.first = first;
            return why;
        }

        /** Returns the failure as expressions see it. */
        Node node(List<Attempt> attempts) {
            int status =
                    attempts.isEmpty() ? 0 : attempts.get(attempts.size() - 1).status();
            return Node.build(Name.of("failure"))
                    .add("class", failureClass.word())
                    .add("cause", cause)
                    .add("message", getMessage())
                    .add("stage", stage)
                    .add("field", first == null ? "" : first.shortField())
                    .add("value", first == null ? "" : first.value())
                    .add("status", status == 0 ? "" : Integer.toString(status))
                    .add("attempts", Integer.toString(attempts.size()))
                    .done();
        }
    }

    /** What is known of a record while it is on its way. */
    private final class Progress {
        private final long ordinal;
        private final Node record;
        private final CallRoom room;
        private final List<Attempt> attempts = new ArrayList<>(1);
        private String key;
        private String note;
        private Exchange exchange;
        private Node fault;
        private Node reply;

        Progress(long ordinal, Node record, CallRoom room) {
            this.room = room;
            this.ordinal = ordinal;
            this.record = record;
        }

        Done written(Map<String, List<String[]>> rows) {
            int count = rows.values().stream().mapToInt(List::size).sum();
            return new Done(line(Outcome.WRITTEN, count, null), rows);
        }

        /** Returns the end of a record that failed, with the rows it gives where failed records are written. */
        Done done(Rejected why, Scope scope) {
            LedgerLine line = line(why.outcome, 0, why);
            if (scope != null) {
                scope.files().undo();
            }
            PreparedFlow.Written lane = flow.rejects();
            if (lane == null || scope == null) {
                return new Done(line, Map.of());
            }
            Scope failing = scope.with("failure", why.node(attempts))
                    .with("fault", fault == null ? Node.branch(Name.of("fault"), List.of()) : fault)
                    .with(flow.call().as(), reply == null ? Node.branch(Name.of("empty"), List.of()) : reply);
            // what cannot be mapped is left empty: the record is lost to no second failure
            List<String[]> rows = lane.rows().rows(failing, new ArrayList<>());
            return new Done(line, Map.of(lane.stage().id(), rows));
        }

        private LedgerLine line(Outcome outcome, int rows, Rejected why) {
            String keep = flow.call().delivery().keep();
            boolean kept = keep.equals("all")
                    || keep.equals("failures") && (outcome != Outcome.WRITTEN || ordinal <= 10 || note != null);
            return new LedgerLine(
                    ordinal,
                    key,
                    record == null ? "" : fingerprint(record),
                    outcome,
                    rows,
                    why == null ? null : why.failureClass,
                    why == null ? null : why.cause,
                    why == null ? null : why.getMessage(),
                    why == null ? null : why.stage,
                    why == null ? null : why.blame,
                    note,
                    outcome == Outcome.WRITTEN ? null : record,
                    List.copyOf(attempts),
                    kept ? exchange : null);
        }
    }
}
