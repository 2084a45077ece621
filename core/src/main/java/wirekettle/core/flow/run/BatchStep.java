package wirekettle.core.flow.run;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.function.Consumer;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.FillFailure;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.flow.compile.CompiledBatch;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.Reach;
import wirekettle.core.flow.file.BatchStage;
import wirekettle.core.request.ByteOut;
import wirekettle.core.soap.CallRoom;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.MemoryBudget;
import wirekettle.core.soap.security.Secrets;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/**
 * Lets records wait for company and runs its block for all of them together. What the block does is kept under the
 * record that leads the batch, the first of it; each record then goes on alone, from this step, with its verdict.
 */
final class BatchStep implements Step {
    private final CompiledBatch batch;
    private final BatchStage stage;
    private final Steps steps;
    private final Step block;

    BatchStep(CompiledBatch batch, Steps steps) {
        this.batch = batch;
        this.stage = batch.stage();
        this.steps = steps;
        this.block = steps.block(batch.block());
    }

    /**
     * A record that waits.
     *
     * @param by what those have in common that go together
     * @param key by which its line in the reply is found, or null
     * @param bytes what it adds to the message, 0 where nobody asks
     */
    record Waiting(BatchStep step, String by, String key, long bytes) {}

    /**
     * What became of a batch.
     *
     * @param item what went through the block
     * @param of how many records it had
     * @param failed why it failed as a whole, or null
     * @param leftAt the filter that left it out, or null
     * @param said what was said of each record; null without a verdict
     */
    private record Together(Item item, int of, Failed failed, String leftAt, List<Verdicts.OfRecord> said) {
        /** Tells whether a record goes on behind the batch. */
        boolean accepted(int place) {
            return failed == null
                    && leftAt == null
                    && (said == null || said.get(place).end() == BatchStage.Said.ACCEPTED);
        }
    }

    /**
     * A record that comes back from a batch.
     *
     * @param batch the id of the Batch
     * @param place where it stood in it, from 0
     */
    record Member(String batch, Together together, int place) {}

    String id() {
        return batch.id();
    }

    int most() {
        return stage.most();
    }

    Integer mostBytes() {
        return stage.mostBytes();
    }

    long waitNanos() {
        return stage.waitMillis() * 1_000_000L;
    }

    @Override
    public StepResult run(Item item) throws Failed, Stopped {
        if (item.company().member() != null) {
            Member member = item.company().member();
            item.company().comesBack(null);
            return goesOn(item, member);
        }
        if (steps.looking()) {
            return looked(item);
        }
        Node accepted = item.known() ? item.replay().accepted(batch.id()) : null;
        if (accepted != null) {
            item.bind(stage.as(), accepted);
            reversible(item);
            return StepResult.ON;
        }
        Member known = known(item);
        if (known != null) {
            return goesOn(item, known);
        }
        Item.Halt halt = item.halt();
        if (halt != null && (halt.reads() || batch.changes())) {
            throw new Failed(halt.failure(), false);
        }
        item.fits(batch.id());
        item.company().waits(waiting(item));
        return StepResult.WAITS;
    }

    /** Says with whom a record goes; what cannot be decided fails the record alone. */
    private Waiting waiting(Item item) throws Failed {
        String by = "";
        if (batch.by() != null) {
            try {
                by = batch.by().text(item.scope());
            } catch (ExpressionProblem e) {
                throw new Failed(Failure.of(
                        FailureClass.MAPPING, "with whom it goes cannot be decided", e.getMessage(), batch.id()));
            }
        }
        String key = null;
        if (batch.verdict() != null && batch.verdict().itemKey() != null) {
            key = Verdicts.key(batch.verdict(), held(item, 1), bare(item));
        }
        return new Waiting(this, by, key, added(item));
    }

    /** Returns how many bytes a record adds to the message: what a second one of it would. */
    private long added(Item item) {
        return stage.mostBytes() == null
                ? 0
                : Math.max(0, written(List.of(item, item)).length - written(List.of(item)).length);
    }

    /** Returns what is in reach where no record is alone. */
    private Scope bare(Item item) {
        Scope scope = Scope.of(Secrets.NONE, steps.doors().folders());
        for (String name : Reach.GIVEN) {
            scope = scope.with(name, item.scope().get(name));
        }
        return steps.based(scope);
    }

    /** Returns a record as it stands in a batch. */
    private Node held(Item item, int position) {
        Node.Builder node = Node.build(Name.of("item")).add("position", Integer.toString(position));
        for (String name : batch.held()) {
            Node its = item.scope().get(name);
            if (its != null) {
                node.add(its.named(Name.of(name)));
            }
        }
        return node.done();
    }

    private Node held(List<Item> members) {
        List<Node> items = new ArrayList<>(members.size());
        for (int i = 0; i < members.size(); i++) {
            items.add(held(members.get(i), i + 1));
        }
        return Node.branch(Name.of(stage.batch()), items);
    }

    /** Returns the message of the first call for these records, as it is written; empty when it cannot be. */
    private byte[] written(List<Item> members) {
        CompiledCall call = batch.measured();
        ByteOut out = new ByteOut();
        List<MappingProblem> problems = call.request()
                .write(
                        bare(members.get(0))
                                .with(stage.batch(), held(members))
                                .knowing(steps.doors()
                                        .lines()
                                        .of(call)
                                        .reach()
                                        .secrets()
                                        .ofFills()),
                        out);
        return problems.isEmpty() ? out.bytes() : new byte[0];
    }

    /** Returns how many bytes the message for these records has as it is sent. */
    private long sent(List<Item> members) {
        byte[] message = written(members);
        return message.length == 0
                ? 0
                : steps.doors().lines().of(batch.measured()).caller().bytes(message);
    }

    /**
     * Lets a closed batch go its way: in parts where it is too large for its service or was refused as a whole.
     *
     * @param members its records, which nobody else works on
     * @param back takes each that goes on
     */
    void go(List<Item> members, Consumer<Item> back) throws Stopped {
        List<Item> inOrder = new ArrayList<>(members);
        inOrder.sort(Comparator.comparingLong(Item::ordinal));
        part(inOrder, back);
    }

    private void part(List<Item> members, Consumer<Item> back) throws Stopped {
        int fit = fitting(members);
        if (fit < members.size()) {
            part(List.copyOf(members.subList(0, fit)), back);
            part(List.copyOf(members.subList(fit, members.size())), back);
            return;
        }
        Together together = together(members);
        if (members.size() > 1 && stage.halves() && refusedAsAWhole(together)) {
            int half = (members.size() + 1) / 2;
            part(List.copyOf(members.subList(0, half)), back);
            part(List.copyOf(members.subList(half, members.size())), back);
            return;
        }
        for (int i = 0; i < members.size(); i++) {
            members.get(i).company().comesBack(new Member(batch.id(), together, i));
            back.accept(members.get(i));
        }
    }

    /** Returns how many of the records, from the first, the service takes in one message; at least one. */
    private int fitting(List<Item> members) {
        if (stage.mostBytes() == null || sent(members) <= stage.mostBytes()) {
            return members.size();
        }
        int fits = 1;
        int tooMany = members.size();
        while (tooMany - fits > 1) {
            int tried = (fits + tooMany) >>> 1;
            if (sent(members.subList(0, tried)) <= stage.mostBytes()) {
                fits = tried;
            } else {
                tooMany = tried;
            }
        }
        return fits;
    }

    /** Only what was answered, and changed nothing, can be sent again in parts. */
    private static boolean refusedAsAWhole(Together together) {
        Failed failed = together.failed();
        if (failed == null || failed.failure().doubtful() || failed.stopping()) {
            return false;
        }
        boolean answered =
                switch (failed.failure().failureClass()) {
                    case FAULT, HTTP_STATUS, CONDITION -> true;
                    default -> false;
                };
        return answered
                && together.item().passages().stream()
                        .noneMatch(passage -> passage.changes() && passage.outcome() == Passage.Outcome.DONE);
    }

    private Together together(List<Item> members) throws Stopped {
        Item first = members.get(0);
        Node node = held(members);
        List<KeptBatch.Member> kept = new ArrayList<>();
        if (batch.changes()) {
            for (Item member : members) {
                kept.add(new KeptBatch.Member(
                        member.ordinal(), member.fingerprint(), member.replay().text("")));
            }
        }
        String path = first.replay().leads(batch.id(), node, kept);
        Together together;
        try (MemoryBudget.Share memory = steps.doors().memory().share()) {
            memory.goFirst(); // its records have their room already, and wait for it
            Scope scope = bare(first).with(stage.batch(), node);
            long most = stage.mostBytes() == null ? Long.MAX_VALUE : stage.mostBytes();
            Failed tooLarge = members.size() == 1 && most < Long.MAX_VALUE && sent(members) > most
                    ? tooLarge(sent(members))
                    : null;
            Item item = first.leading(path, scope, new CallRoom(null, memory));
            together = tooLarge != null ? new Together(item, 1, tooLarge, null, null) : done(item, node);
        }
        first.takesBatch(together.item());
        for (int i = 0; i < members.size(); i++) {
            if (together.accepted(i) || together.failed() != null) {
                members.get(i).takesRows(together.item());
                break;
            }
        }
        return together;
    }

    private Failed tooLarge(long bytes) {
        return new Failed(
                Failure.of(
                        FailureClass.MAPPING,
                        "too large for the service",
                        "its message alone has " + bytes + " bytes; the service takes " + stage.mostBytes(),
                        batch.id()),
                false);
    }

    /** Runs the block for a batch. */
    private Together done(Item item, Node node) throws Stopped {
        Together together = ran(item, node);
        Failed failed = together.failed();
        End end = failed == null
                ? together.leftAt() == null ? End.DONE : End.LEFT_OUT
                : failed.failure().doubtful() ? End.IN_DOUBT : End.REJECTED;
        together.item().numbers().settle(end);
        return together;
    }

    private Together ran(Item item, Node node) throws Stopped {
        int of = node.children().size();
        try {
            StepResult go = block.run(item);
            if (go != StepResult.ON) {
                return new Together(item, of, null, item.leftAt(), null);
            }
            List<Verdicts.OfRecord> said = stage.verdict() == null
                    ? null
                    : Verdicts.of(batch, item.scope(), node.children(), bare(item), item::alsoNotes);
            return new Together(item, of, null, null, said);
        } catch (Failed failed) {
            if (!failed.settled() || failed.failure().doubtful()) {
                item.backRows(0);
            }
            return new Together(item, of, failed, null, null);
        } catch (FillFailure e) {
            item.backRows(0);
            Failure why = Failure.of(FailureClass.REPLY, "the verdict cannot be read", e.getMessage(), batch.id());
            return new Together(item, of, new Failed(batch.changes() ? why.inDoubt() : why, false), null, null);
        } catch (SampleWalk.NoReply e) {
            throw e; // a sample comes no further
        } catch (RuntimeException | StackOverflowError e) {
            steps.doors().trouble().accept(e);
            item.backRows(0);
            Failure why = Failure.internal(batch.id());
            boolean doubtful = item.sending()
                    || item.passages().stream()
                            .anyMatch(each -> each.changes() && each.outcome() != Passage.Outcome.NOT_DONE);
            return new Together(item, of, new Failed(doubtful ? why.inDoubt() : why, false), null, null);
        }
    }

    /** Returns what became of a record in a batch that was claimed before a crash; null when there was none. */
    private Member known(Item item) throws Stopped {
        Replay.KnownBatch known = item.known() ? item.replay().batch(batch.id()) : null;
        if (known == null) {
            return null;
        }
        KeptBatch kept = known.batch();
        Object outcome;
        synchronized (known) {
            outcome = known.outcome();
            if (outcome == null) {
                Item its = Item.of(kept, known.leading(), bare(item).with(stage.batch(), kept.node()));
                outcome = done(its, kept.node());
                known.comesTo(outcome);
            }
        }
        Together together = (Together) outcome;
        int place = kept.place(item.ordinal());
        if (together.item().ordinal() == item.ordinal()) {
            item.takesBatch(together.item());
        }
        if (together.accepted(place) && firstAccepted(together) == place) {
            item.takesRows(together.item());
        }
        return new Member(batch.id(), together, place);
    }

    private static int firstAccepted(Together together) {
        for (int i = 0; i < together.of(); i++) {
            if (together.accepted(i)) {
                return i;
            }
        }
        return -1;
    }

    /** Lets a record go on alone. */
    private StepResult goesOn(Item item, Member member) throws Failed {
        Together together = member.together();
        Verdicts.OfRecord said =
                together.said() == null ? null : together.said().get(member.place());
        item.company()
                .wasIn(new BatchPlace(
                        batch.id(),
                        together.item().ordinal(),
                        together.item().path(),
                        member.place() + 1,
                        together.of(),
                        said == null ? null : said.end().word(),
                        said == null || said.end() != BatchStage.Said.ACCEPTED ? null : said.node()));
        if (together.failed() != null) {
            throw together.failed();
        }
        if (together.leftAt() != null) {
            item.leavesAt(together.leftAt());
            return StepResult.LEFT_OUT;
        }
        if (said != null) {
            switch (said.end()) {
                case REFUSED -> throw new Failed(refused(said.reason()));
                case IN_DOUBT -> throw new Failed(
                        Failure.of(FailureClass.REPLY, "no verdict", said.reason(), batch.id())
                                .inDoubt());
                default -> item.bind(stage.as(), said.node());
            }
        }
        reversible(item);
        return StepResult.ON;
    }

    /** Notes that the record can be taken back; a sample shows at once what that would send. */
    private void reversible(Item item) {
        if (!stage.undo().isEmpty()) {
            Effect effect =
                    new Effect(item.path(), batch.id(), item.company().places().size());
            Item.Reversal reversal = new Item.Reversal(batch.id(), batch.id(), effect, item.path(), item.scope());
            item.reversible(reversal);
            if (steps.looking()) {
                steps.reversals().show(item, reversal);
            }
        }
    }

    private Failure refused(String reason) {
        String cause = reason.isEmpty() ? "refused in the batch" : reason;
        return Failure.of(FailureClass.CONDITION, cause, "its line in the reply refuses it: " + cause, batch.id());
    }

    /** A sample goes with the other samples that come here. */
    private StepResult looked(Item item) throws Failed, Stopped {
        List<Item> members = company(item);
        int place = members.indexOf(item);
        steps.watch().together(batch.id(), place + 1, members.size());
        Item first = members.get(0);
        Node node = held(members);
        String path = first.replay().leads(batch.id(), node, List.of());
        Together together = done(first.leading(path, bare(first).with(stage.batch(), node), CallRoom.NONE), node);
        item.takesRows(together.item());
        if (together.said() != null) {
            Scope scope = together.item()
                    .scope()
                    .with(BatchStage.ITEM, node.children().get(place));
            Node line = together.said().get(place).node().child(BatchStage.LINE);
            steps.watch()
                    .takes(
                            BatchStage.verdictOf(batch.id()),
                            path,
                            line == null ? scope : scope.with(BatchStage.LINE, line));
        }
        return goesOn(item, new Member(batch.id(), together, place));
    }

    /** Returns the samples that would go in one batch with a sample, it among them. */
    private List<Item> company(Item item) throws Failed {
        String by = waiting(item).by();
        List<Item> together = new ArrayList<>();
        for (Item other : steps.watch().company(batch.id(), item)) {
            try {
                if (other == item || waiting(other).by().equals(by)) {
                    together.add(other);
                }
            } catch (Failed e) {
                // it would fail alone
            }
        }
        int from = together.indexOf(item) / stage.most() * stage.most();
        return together.subList(from, Math.min(together.size(), from + stage.most()));
    }
}
