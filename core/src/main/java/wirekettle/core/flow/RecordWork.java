package wirekettle.core.flow;

import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.Clock;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import wirekettle.core.flow.LedgerLine.Attempt;
import wirekettle.core.flow.LedgerLine.Exchange;
import wirekettle.core.mapping.ByteOut;
import wirekettle.core.mapping.ExpressionProblem;
import wirekettle.core.mapping.MappingProblem;
import wirekettle.core.mapping.Scope;
import wirekettle.core.schema.SheetField;
import wirekettle.core.soap.CallFailure;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.Reply;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeWriter;

/** Takes one record its whole way: map, call with retries, judge, make rows. Safe for several threads. */
public final class RecordWork {
    private static final ThreadLocal<ByteOut> BUFFER = ThreadLocal.withInitial(ByteOut::new);

    private final PreparedFlow flow;
    private final Caller caller;
    private final String address;
    private final String runId;
    private final String sourceName;
    private final String started;
    private final Clock clock;
    private final SheetField replySheet;

    /** Makes the work of one run; {@code started} is the run's start as it can be mapped. */
    public RecordWork(PreparedFlow flow, Caller caller, String address, String runId, String sourceName, Clock clock) {
        this.flow = flow;
        this.caller = caller;
        this.address = address;
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
     * @param rows its rows, empty when it failed
     */
    public record Done(LedgerLine line, List<String[]> rows) {}

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
        return Scope.empty().with("run", run).with(flow.read().as(), record);
    }

    /** Does all the work for one record; every failure is part of the result. */
    public Done process(long ordinal, RecordSource.Item item, Stop stop) {
        Progress at = new Progress(ordinal, item.node());
        if (item.problem() != null) {
            return at.rejected(
                    FailureClass.MAPPING,
                    "unusable row",
                    item.problem(),
                    flow.read().id(),
                    null);
        }
        Scope scope = scope(ordinal, item.node());
        if (flow.key() != null) {
            Node key = flow.key().first(scope);
            at.key = key == null ? null : key.text();
        }
        ByteOut out = BUFFER.get();
        out.back(0);
        List<MappingProblem> problems = flow.request().write(scope, out);
        if (!problems.isEmpty()) {
            return at.rejected(problems, flow.call().id());
        }
        byte[] envelope = out.bytes();
        Caller.Result result = call(envelope, at, stop);
        if (result.failure() != null) {
            return at.failed(result.failure());
        }
        return judge(scope, result.reply(), at);
    }

    private Done judge(Scope scope, Reply reply, Progress at) {
        String stage = flow.call().id();
        Node body = reply.body().isEmpty()
                ? Node.branch(Name.of("empty"), List.of())
                : reply.body().get(0);
        if (replySheet != null) {
            at.note = ReplyCheck.note(body, replySheet);
            if (flow.call().delivery().strict()) {
                List<String> wrong = flow.contract()
                        .check()
                        .problems(NodeWriter.write(body, false).getBytes(StandardCharsets.UTF_8));
                if (!wrong.isEmpty()) {
                    return at.rejected(FailureClass.REPLY, "reply not valid", wrong.get(0), stage, null);
                }
            }
        }
        Scope after = scope.with(flow.call().as(), body);
        for (PreparedFlow.Test test : flow.tests()) {
            String message = test.condition().message();
            String label =
                    message == null || message.isBlank() ? test.condition().expression() : message;
            try {
                if (test.expression().test(after)) {
                    return at.rejected(
                            FailureClass.CONDITION,
                            label,
                            "the reply counts as failed: " + label,
                            stage,
                            test.condition().id());
                }
            } catch (ExpressionProblem e) {
                return at.rejected(
                        FailureClass.CONDITION,
                        label + " cannot be decided",
                        e.getMessage(),
                        stage,
                        test.condition().id());
            }
        }
        List<MappingProblem> problems = new ArrayList<>();
        List<String[]> rows = flow.rows().rows(after, problems);
        return problems.isEmpty()
                ? at.written(rows)
                : at.rejected(problems, flow.write().id());
    }

    private Caller.Result call(byte[] envelope, Progress at, Stop stop) {
        Delivery delivery = flow.call().delivery();
        for (int number = 1; ; number++) {
            Instant start = clock.instant();
            long from = System.nanoTime();
            Caller.Result result = caller.call(envelope);
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
            at.exchange =
                    new Exchange(address, result.sent() == null ? envelope : result.sent(), status, result.received());
            if (failure == null
                    || number > delivery.retries()
                    || !mayRetry(failure, status, delivery)
                    || !waited(delivery.backOffMillis() << Math.min(number - 1, 10), stop)) {
                return result;
            }
        }
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

    /** What is known of a record while it is on its way. */
    private final class Progress {
        private final long ordinal;
        private final Node record;
        private final List<Attempt> attempts = new ArrayList<>(1);
        private String key;
        private String note;
        private Exchange exchange;

        Progress(long ordinal, Node record) {
            this.ordinal = ordinal;
            this.record = record;
        }

        Done written(List<String[]> rows) {
            return new Done(line(Outcome.WRITTEN, rows.size(), null, null, null, null, null), rows);
        }

        Done failed(CallFailure failure) {
            boolean doubtful = failure.sent()
                    && !failure.answered()
                    && !flow.call().delivery().reads();
            Outcome outcome = doubtful ? Outcome.IN_DOUBT : Outcome.REJECTED;
            if (failure.fault() != null) {
                TypedFault typed = TypedFault.of(failure.fault(), flow.offered().operation(), flow.contract());
                note = typed.note();
                String cause = typed.name() == null ? failure.causeLabel() : typed.name();
                String detail = typed.fields().isEmpty() ? "" : " (" + String.join(", ", typed.fields()) + ")";
                return rejected(
                        FailureClass.FAULT,
                        cause,
                        failure.getMessage() + detail,
                        flow.call().id(),
                        null);
            }
            return new Done(
                    line(
                            outcome,
                            0,
                            failure.failureClass(),
                            failure.causeLabel(),
                            failure.getMessage(),
                            flow.call().id(),
                            null),
                    List.of());
        }

        Done rejected(List<MappingProblem> problems, String stage) {
            MappingProblem first = problems.get(0);
            boolean mapping = first.code().equals("conversion") || first.code().equals("expression");
            StringBuilder all = new StringBuilder(first.sentence());
            problems.stream().skip(1).limit(4).forEach(p -> all.append("; ").append(p.sentence()));
            return rejected(
                    mapping ? FailureClass.MAPPING : FailureClass.VALIDATION,
                    first.group(),
                    all.toString(),
                    stage,
                    first.fillId() == null ? first.field() : first.fillId());
        }

        Done rejected(FailureClass failureClass, String cause, String message, String stage, String blame) {
            return new Done(line(Outcome.REJECTED, 0, failureClass, cause, message, stage, blame), List.of());
        }

        private LedgerLine line(
                Outcome outcome,
                int rows,
                FailureClass failureClass,
                String cause,
                String message,
                String stage,
                String blame) {
            String keep = flow.call().delivery().keep();
            boolean kept = keep.equals("all")
                    || keep.equals("failures") && (outcome != Outcome.WRITTEN || ordinal <= 10 || note != null);
            return new LedgerLine(
                    ordinal,
                    key,
                    record == null ? "" : fingerprint(record),
                    outcome,
                    rows,
                    failureClass,
                    cause,
                    message,
                    stage,
                    blame,
                    note,
                    outcome == Outcome.WRITTEN ? null : record,
                    List.copyOf(attempts),
                    kept ? exchange : null);
        }
    }
}
