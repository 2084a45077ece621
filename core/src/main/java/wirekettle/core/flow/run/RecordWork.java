package wirekettle.core.flow.run;

import java.math.BigDecimal;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Scope;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.CompiledValue;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.soap.CallRoom;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.attachments.Attachments;
import wirekettle.core.value.Content;
import wirekettle.core.value.Node;

/** Takes one record its whole way through the steps of a flow. Safe for several threads. */
final class RecordWork {
    private final CompiledFlow flow;
    private final ReadStage read;
    private final Doors doors;
    private final RunNames names;
    private final String started;
    private final Steps all;
    private final Step steps;
    private final LaneRules lane;
    private final boolean files;
    private volatile Now now;

    RecordWork(CompiledFlow flow, Doors doors, RunNames names, Steps.Claims claims, Stop stop) {
        this.flow = flow;
        this.read = flow.source().stage();
        this.doors = doors;
        this.names = names;
        this.started = now();
        this.all = new Steps(flow, doors, claims, stop, Steps.Watch.NONE);
        this.steps = all.block(flow.block());
        this.lane = flow.lane() == null ? null : new LaneRules(flow.lane(), null, all);
        this.files = flow.keepsFiles();
    }

    /** Takes what was made before the first record. */
    void base(Map<String, Node> made) {
        all.base(made);
    }

    /** Returns where records wait for company. */
    Batches batches() {
        return all.batches();
    }

    /** Returns the time to the millisecond; many records begin in the same. */
    private String now() {
        long millis = doors.clock().millis();
        Now known = now;
        if (known == null || known.millis() != millis) {
            known = new Now(millis, Instant.ofEpochMilli(millis).toString());
            now = known;
        }
        return known.text();
    }

    private record Now(long millis, String text) {}

    /**
     * What became of one record.
     *
     * @param line its ledger line; null when it has no end yet, but waits in a batch
     * @param rows its rows in the order they were made
     * @param item the record, so that it can fail when a target refuses its rows
     * @param stops whether the run is to stop
     */
    record RecordResult(LedgerLine line, List<Item.Rows> rows, Item item, boolean stops) {}

    /** Returns the variables in reach at the beginning. */
    static Scope scope(
            CompiledFlow flow, Doors doors, RunNames names, String started, String now, long ordinal, Node record) {
        Node run = names.node()
                .add("started", started)
                .add("now", now)
                .add("record", Long.toString(ordinal))
                .done();
        Scope scope = names.scope(doors, run);
        return record == null ? scope : scope.with(flow.source().stage().as(), record);
    }

    /** Returns the business key of a record, or null. */
    String key(Node record) {
        if (flow.source().key() == null || record == null) {
            return null;
        }
        Node key = flow.source().key().first(Scope.empty().with(read.as(), record));
        return key == null ? null : key.text();
    }

    /**
     * What a record did in earlier runs, to be taken back before it goes its way.
     *
     * @param record as it was
     * @param did what it made and did
     */
    record TakenBack(Node record, Replay did) {}

    /** Does all the work for one record; every failure is part of the result. */
    RecordResult process(Intake.Task task, Long heldBehind, Node carried) throws Stopped {
        long ordinal = task.ordinal();
        RecordSource.Item given = task.item();
        Past.OpenRecord past = task.past();
        Replay replay = past == null ? Replay.starting(now()) : past.replay();
        Scope scope = all.based(scope(flow, doors, names, started, replay.now(), ordinal, given.node()));
        if (carried != null) {
            scope = scope.with(read.carry().as(), carried);
        }
        Item item = new Item(
                ordinal,
                "",
                given.node(),
                Fingerprint.of(given.node()),
                key(given.node()),
                scope,
                new CallRoom(files ? new Attachments() : null, task.memory()),
                replay,
                past != null);
        item.waitedFor(given.fits());
        if (heldBehind != null) {
            String message = "record " + heldBehind + " of the same key was rejected or is in doubt: it comes first";
            Failure why = Failure.of(FailureClass.CONDITION, "held back", message, read.id());
            return new RecordResult(LedgerLine.heldBack(item, why), List.of(), item, false);
        }
        if (task.back() != null) {
            Failure left = takenBack(item, task.back());
            if (left != null) {
                return new RecordResult(LedgerLine.failed(item, left, 0), List.of(), item, false);
            }
        }
        Failure undoing = past == null ? null : replay.undoing("", "");
        if (undoing != null) {
            item.halts(new Item.Halt(undoing, true));
        }
        return whole(item, given.problem());
    }

    /** Takes back what earlier runs did for a record; returns what it ends with where something is left, else null. */
    private Failure takenBack(Item item, TakenBack back) throws Stopped {
        Replay did = back.did();
        Scope scope = all.based(scope(flow, doors, names, started, did.now(), item.ordinal(), back.record()));
        Item before = new Item(
                item.ordinal(), "", back.record(), item.fingerprint(), item.key(), scope, item.room(), did, true);
        Failure why =
                Failure.of(FailureClass.CONDITION, "taken back", "what was done for it is taken back first", read.id());
        before.takesBackEarlier(why);
        did.undoes("", "", why);
        Failed end = new Failed(why, false);
        try {
            steps.run(before);
        } catch (Failed failed) {
            end = failed.failure().doubtful() ? failed : end;
        } catch (RuntimeException | StackOverflowError e) {
            doors.trouble().accept(e);
            return Failure.internal(read.id());
        }
        before.scope().files().undo();
        end = end.failure().doubtful() ? end : all.reversals().takeBack(before, before.reversals(), end);
        item.begins(before);
        if (end.failure().doubtful()) {
            return end.failure();
        }
        List<Effect> left = new ArrayList<>(did.done());
        before.own().stream()
                .filter(passage -> passage.outcome() == Passage.Outcome.UNDONE)
                .forEach(passage -> left.remove(passage.effect()));
        return left.isEmpty()
                ? null
                : Failure.of(
                        FailureClass.CONDITION,
                        "not taken back",
                        "what " + left.get(0).stage() + " did is done, and nothing takes it back: nothing was sent",
                        left.get(0).stage());
    }

    /** Goes on with a record that comes back from a batch. */
    RecordResult goOn(Item item) throws Stopped {
        return whole(item, null);
    }

    private RecordResult whole(Item item, String problem) throws Stopped {
        RecordResult result = null;
        try {
            result = adding(run(item, problem));
            return result;
        } finally {
            boolean over = result == null || result.line() != null;
            if (over && item.room().attachments() != null) {
                item.room().attachments().close();
            }
        }
    }

    /** Adds what the record adds to the sums of the flow, and what it hands on. */
    private RecordResult adding(RecordResult result) {
        if (result.line() == null) {
            return result;
        }
        LedgerLine line = result.line();
        if (line.end() == End.DONE
                && line.key() != null
                && !flow.source().carried().isEmpty()) {
            line = line.carrying(CarryOver.of(flow.source(), result.item().scope()));
        }
        line = summing(line, result.item());
        return line == result.line() ? result : new RecordResult(line, result.rows(), result.item(), result.stops());
    }

    private LedgerLine summing(LedgerLine line, Item item) {
        if (flow.after() == null || flow.after().sums().isEmpty()) {
            return line;
        }
        Map<String, BigDecimal> sums = new LinkedHashMap<>();
        for (CompiledValue sum : flow.after().sums()) {
            sums.put(sum.name(), number(sum, item.scope()));
        }
        return line.adding(sums);
    }

    /** Returns what a record adds to a sum; what is no number counts as nothing. */
    static BigDecimal number(CompiledValue sum, Scope scope) {
        try {
            return new BigDecimal(sum.of().text(scope).strip());
        } catch (ExpressionProblem | NumberFormatException e) {
            return BigDecimal.ZERO;
        }
    }

    private RecordResult run(Item item, String problem) throws Stopped {
        try {
            if (problem != null) {
                throw new Failed(Failure.of(FailureClass.MAPPING, "unusable row", problem, read.id()), false);
            }
            item.fits(read.id());
            StepResult go = steps.run(item);
            if (go == StepResult.WAITS) {
                return new RecordResult(null, List.of(), item, false);
            }
            if (item.halt() != null) {
                // it was being taken back when the run was interrupted
                throw new Failed(item.halt().failure(), false);
            }
            return go == StepResult.LEFT_OUT ? leftOut(item) : done(item);
        } catch (Failed failed) {
            return failed(item, failed);
        } catch (Content.TooLarge e) {
            return failed(
                    item,
                    new Failed(
                            Failure.of(FailureClass.MAPPING, "attachment too large", e.getMessage(), read.id()),
                            false));
        } catch (RuntimeException | StackOverflowError e) {
            return internal(item, e);
        }
    }

    /** What was written before the filter leaves: the record has come to its end there. */
    private static RecordResult leftOut(Item item) {
        List<Item.Rows> rows = item.rows();
        return new RecordResult(LedgerLine.leftOut(item, item.leftAt(), count(rows)), rows, item, false);
    }

    private static RecordResult done(Item item) {
        List<Item.Rows> rows = item.rows();
        return new RecordResult(LedgerLine.done(item, count(rows)), rows, item, false);
    }

    private static int count(List<Item.Rows> rows) {
        return rows.stream().mapToInt(each -> each.rows().size()).sum();
    }

    private RecordResult internal(Item item, Throwable thrown) throws Stopped {
        doors.trouble().accept(thrown);
        Failure why = Failure.internal(read.id());
        why = item.sending() ? why.inDoubt() : why;
        item.backRows(0);
        item.answers(null);
        Failed end = reversed(item, new Failed(why, false));
        item.scope().files().undo();
        List<Item.Rows> rows = end.failure().doubtful() ? List.of() : item.rows();
        return new RecordResult(LedgerLine.failed(item, end.failure(), count(rows)), rows, item, false);
    }

    /** Takes back what a rejected record changed, where its calls say how. */
    private Failed reversed(Item item, Failed end) throws Stopped {
        List<Item.Reversal> reversals = item.reversals();
        if (reversals.isEmpty() || end.failure().doubtful() || end.leaves()) {
            return end;
        }
        item.replay().undoes("", "", end.failure());
        Failed then = all.reversals().takeBack(item, reversals, end);
        return then == end || !end.stopping() ? then : then.asEnd(true);
    }

    /** Asks the flow's lane about a failure that no nearer one took. */
    private RecordResult failed(Item item, Failed failed) throws Stopped {
        Failed end = failed;
        if (!failed.settled()) {
            item.backRows(0);
            item.answers(null);
            if (lane != null) {
                try {
                    lane.take(failed, item, item.mark(), lane.tries());
                } catch (Failed e) {
                    end = outcome(failed, e);
                } catch (RuntimeException | StackOverflowError e) {
                    return internal(item, e);
                }
            }
            if (!end.settled()) {
                item.backRows(0);
            }
        }
        end = reversed(item, end);
        if (end.failure().doubtful()) {
            item.backRows(0);
        }
        // what the record wrote beside its rows goes too
        item.scope().files().undo();
        List<Item.Rows> rows = item.rows();
        return new RecordResult(LedgerLine.failed(item, end.failure(), count(rows)), rows, item, end.stopping());
    }

    /** A lane that fails itself leaves the first failure, and says so. */
    private static Failed outcome(Failed first, Failed then) {
        if (then.settled() || then.failure() == first.failure()) {
            return then;
        }
        Failure failure = first.failure();
        Failed end = new Failed(
                new Failure(
                        failure.failureClass(),
                        failure.cause(),
                        failure.message() + "; and its lane failed: "
                                + then.failure().message(),
                        failure.stage(),
                        failure.blame(),
                        failure.field(),
                        failure.value(),
                        failure.status(),
                        failure.attempts(),
                        failure.fault(),
                        failure.doubtful()),
                false);
        return first.leaves() ? end.leaving() : end;
    }

    /**
     * Says what becomes of a record one of whose rows its target refused: the lane of the Write is asked, then the
     * flow's.
     */
    RecordResult refused(RecordResult done, Outputs.Refused refused) throws Stopped {
        return adding(asRefused(done, refused));
    }

    private RecordResult asRefused(RecordResult done, Outputs.Refused refused) throws Stopped {
        Item item = done.item();
        Failure why = Failure.of(FailureClass.WRITE, "row refused", refused.reason(), refused.stage());
        if (done.line().end() != End.DONE && done.line().end() != End.LEFT_OUT) {
            // a lane's own row: the record has its end already, without it
            List<Item.Rows> rows = without(done.rows(), refused.stage());
            return new RecordResult(done.line(), rows, item, done.stops());
        }
        List<Item.Rows> others = without(done.rows(), refused.stage());
        item.backRows(0);
        LaneRules near = near(refused.stage());
        Failed failed = new Failed(why, false);
        if (near != null) {
            try {
                near.take(failed, item, item.mark(), near.tries());
                List<Item.Rows> rows = new ArrayList<>(others);
                rows.addAll(item.rows());
                return new RecordResult(LedgerLine.done(item, count(rows)), rows, item, false);
            } catch (Failed e) {
                failed = e;
            }
        }
        return failed(item, failed);
    }

    private static List<Item.Rows> without(List<Item.Rows> rows, String stage) {
        return rows.stream().filter(each -> !each.stage().equals(stage)).toList();
    }

    private LaneRules near(String stage) {
        var compiled = flow.stage(stage);
        return compiled == null || compiled.frame().lane() == null
                ? null
                : new LaneRules(compiled.frame().lane(), compiled, all);
    }
}
