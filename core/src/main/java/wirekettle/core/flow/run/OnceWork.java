package wirekettle.core.flow.run;

import java.io.IOException;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.expression.Scope;
import wirekettle.core.flow.compile.CompiledBlock;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.Reach;
import wirekettle.core.flow.compile.Variable;
import wirekettle.core.soap.CallRoom;
import wirekettle.core.soap.MemoryBudget;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/**
 * Runs what is run once: before the first record and after the last. Both have a line of their own in the ledger, under
 * ordinals no record has, which is not counted. What the first made is durable before there is any record.
 */
final class OnceWork {
    /** The ordinal of what is run before the first record. */
    static final long BEFORE = 0;

    /** The ordinal of what is run after the last record. */
    static final long AFTER = -1;

    private final CompiledFlow flow;
    private final Doors doors;
    private final RunNames names;
    private final LedgerWriter books;
    private final Outputs outputs;
    private final Past past;

    OnceWork(CompiledFlow flow, Doors doors, RunNames names, LedgerWriter books, Outputs outputs, Past past) {
        this.flow = flow;
        this.doors = doors;
        this.names = names;
        this.books = books;
        this.outputs = outputs;
        this.past = past;
    }

    /**
     * Runs what comes before the first record.
     *
     * @return what it made, by the names of its variables
     * @throws IOException when it failed: then there is no record
     * @throws Stopped when the run was stopped in the middle of it
     */
    Map<String, Node> before(Stop stop) throws IOException, Stopped {
        if (flow.before().steps().isEmpty()) {
            return Map.of();
        }
        Once once = new Once(BEFORE, "before", flow.before(), stop);
        try {
            once.run(
                    names.node()
                            .add("started", once.now())
                            .add("now", once.now())
                            .done(),
                    Map.of());
        } catch (Failed failed) {
            throw new IOException("before the first record: " + failed.failure().message());
        }
        // durable before there is any record, so that it is the same for all of them
        books.claim(new Claim(BEFORE, "", once.whole(), once.item.replay().text("before"), Long.MAX_VALUE));
        books.known(new Ledger.KnownPassage(BEFORE, Passage.bare(once.whole(), Passage.Outcome.DONE), "<done/>"));
        once.end();
        Map<String, Node> made = new LinkedHashMap<>();
        for (Variable variable : flow.before().after().variables()) {
            Node its = once.item.scope().get(variable.name());
            if (its != null && !Reach.GIVEN.contains(variable.name())) {
                made.put(variable.name(), its);
            }
        }
        return made;
    }

    /**
     * Runs what comes after the last record.
     *
     * @param made what was made before the first
     * @return what is in doubt of it, null when it is done
     * @throws AfterFailed when it failed and can be tried again
     * @throws IOException when its rows or the ledger cannot be written
     */
    String after(Map<String, Node> made, Totals totals) throws IOException {
        Once once = new Once(AFTER, "after", flow.after().block(), () -> books.failed() != null);
        if (once.ended) {
            return null;
        }
        try {
            once.run(whole(totals, names, once.now()), made);
            once.end();
            return null;
        } catch (Failed failed) {
            String message = "after the last record: " + failed.failure().message();
            if (!failed.failure().doubtful()) {
                throw new AfterFailed(message);
            }
            once.line(LedgerLine.failed(once.item, failed.failure(), 0), List.of());
            return message;
        } catch (Stopped e) {
            throw new IOException("the ledger cannot be written", books.failed());
        }
    }

    /** Returns what a run has come to, as a variable. */
    static Node whole(Totals totals, RunNames names, String now) {
        Node.Builder run = names.node()
                .add("now", now)
                .add("read", Long.toString(totals.read()))
                .add("saved", Long.toString(totals.saved()))
                .add("rows", Long.toString(totals.rows()));
        for (End end : End.values()) {
            run.add(end.word(), Long.toString(totals.of(end)));
        }
        Node.Builder sums = Node.build(Name.of("sums"));
        totals.sums().forEach((name, its) -> {
            Node.Builder sum = Node.build(Name.of(name));
            for (End end : End.values()) {
                var value = its.get(end.word());
                sum.add(end.word(), value == null ? "0" : value.toPlainString());
            }
            sums.add(sum.done());
        });
        return run.add(sums.done()).done();
    }

    /** One of the two on its way. */
    private final class Once {
        private final long ordinal;
        private final String path;
        private final Steps steps;
        private final Step block;
        private final Replay replay;
        private final boolean known;
        private final boolean ended;
        private final MemoryBudget.Share memory = doors.memory().share();
        private Item item;

        Once(long ordinal, String path, CompiledBlock block, Stop stop) {
            this.ordinal = ordinal;
            this.path = path;
            this.steps = new Steps(flow, doors, books, stop, Steps.Watch.NONE);
            this.block = steps.block(block);
            Past.Once before = past.once(ordinal);
            known = before != null && before.record() != null;
            ended = before != null && before.ended();
            replay = known
                    ? before.record().replay()
                    : Replay.starting(doors.clock().instant().toString());
        }

        String now() {
            return replay.now();
        }

        /** The effect that stands for all of it. */
        Effect whole() {
            return new Effect(path, "", 1);
        }

        void run(Node run, Map<String, Node> made) throws Failed, Stopped {
            Scope scope = names.scope(doors, run);
            for (Map.Entry<String, Node> each : made.entrySet()) {
                scope = scope.with(each.getKey(), each.getValue());
            }
            memory.goFirst();
            item = new Item(ordinal, path, null, "", null, scope, new CallRoom(null, memory), replay, known);
            try {
                block.run(item);
            } catch (Failed failed) {
                throw reversed(failed);
            } catch (RuntimeException | StackOverflowError e) {
                doors.trouble().accept(e);
                Failure why = Failure.internal(path);
                throw new Failed(item.sending() ? why.inDoubt() : why, false);
            } finally {
                memory.close();
            }
        }

        private Failed reversed(Failed failed) throws Stopped {
            List<Item.Reversal> reversals = item.reversals();
            return reversals.isEmpty() || failed.failure().doubtful()
                    ? failed
                    : steps.reversals().takeBack(item, reversals, failed);
        }

        /** Makes its rows durable, then its line. */
        void end() throws IOException {
            if (ended) {
                return;
            }
            List<Item.Rows> rows = item.rows();
            int count = rows.stream().mapToInt(each -> each.rows().size()).sum();
            line(LedgerLine.done(item, count), rows);
        }

        void line(LedgerLine line, List<Item.Rows> rows) throws IOException {
            outputs.write(ordinal, rows, true);
            Map<Long, Outputs.Refused> refused = outputs.tryRows();
            if (!refused.isEmpty()) {
                throw new IOException(path + " all records: "
                        + refused.values().iterator().next().reason());
            }
            outputs.write(ordinal, rows, false);
            outputs.flush();
            LedgerWriter.durable(books.ends(List.of(line), outputs.positions(), null));
        }
    }
}
