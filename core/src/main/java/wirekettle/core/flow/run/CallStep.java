package wirekettle.core.flow.run;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.Paging;
import wirekettle.core.request.ByteOut;
import wirekettle.core.soap.CallFailure;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.MemoryBudget;
import wirekettle.core.soap.Reply;
import wirekettle.core.soap.SoapFault;
import wirekettle.core.soap.attachments.Xop;
import wirekettle.core.soap.security.Secrets;
import wirekettle.core.value.Content;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeWriter;
import wirekettle.core.xml.XmlProblem;

/**
 * Calls an operation. What changes data is claimed in the ledger before it leaves, and never sent again unless it is
 * known not to have taken effect. Mapping, checking and waiting take no slot of the endpoint.
 */
final class CallStep implements Step {
    private static final ThreadLocal<ByteOut> BUFFER = ThreadLocal.withInitial(ByteOut::new);
    private static final Node NOTHING = Node.branch(Name.of("empty"), List.of());
    private static final int FIRST_KEPT = 10;

    private final CompiledCall call;
    private final Delivery delivery;
    private final Doors.Line line;
    private final Secrets secrets;
    private final Steps steps;
    private final Semaphore places;
    private final CallMemory memory;
    private final ReplyCheck check;
    private final Inquiry inquiry;

    CallStep(CompiledCall call, Steps steps) {
        this.call = call;
        this.delivery = call.stage().delivery();
        this.line = steps.doors().lines().of(call);
        this.secrets = line.reach().secrets().ofFills();
        this.steps = steps;
        this.check = call.reply() == null ? null : new ReplyCheck(call.reply());
        this.inquiry = Inquiry.of(call, steps);
        this.places = new Semaphore(delivery.atOnce());
        this.memory =
                delivery.memorySeconds() == null || !delivery.reads() ? null : new CallMemory(delivery.memorySeconds());
        if (steps.doors().replies() == null) {
            for (String secret : call.secrets()) {
                line.reach().secret(secret); // hidden from now on
            }
        }
    }

    @Override
    public StepResult run(Item item) throws Failed, Stopped {
        try {
            called(item);
        } catch (Failed failed) {
            if (steps.changes() && !failed.failure().doubtful()) {
                item.replay().fails(item.path(), call.id(), failed.failure());
            }
            throw failed;
        }
        item.replay().works(item.path(), call.id());
        return StepResult.ON;
    }

    private void called(Item item) throws Failed, Stopped {
        Passage before = item.tried(call.id());
        Effect effect = before == null ? item.next(call.id()) : before.effect();
        if (item.known() && before == null && replayed(item, effect)) {
            reversible(item, effect);
            return;
        }
        Item.Halt halt = item.halt();
        if (halt != null && (halt.reads() || !delivery.reads())) {
            throw new Failed(halt.failure(), false);
        }
        if (steps.doors().replies() != null) {
            if (inquiry != null) {
                inquiry.show(item);
            }
            if (call.pages() != null) {
                Node first = new Pages(call.pages(), call.id()).page();
                steps.watch().adds(call.id(), item.path(), item.scope().with(Paging.VARIABLE, first));
            }
            Caller.Result result = steps.doors().replies().of(call, item.ordinal(), item.path());
            Sent looked = new Sent(result, steps.doors().clock().instant(), 0, false);
            item.bind(call.stage().as(), known(item, new byte[0], looked, List.of(attempt(1, looked)), effect));
            reversible(item, effect);
            return;
        }
        item.fits(call.id());
        if (call.pages() != null) {
            paged(item, before, effect);
            return;
        }
        byte[] request = request(item.scope());
        if (memory != null) {
            Node body = remembered(item, request, before, effect);
            item.makes(call.id(), body);
            item.bind(call.stage().as(), body);
            return;
        }
        Node body = answered(item, request, before, effect);
        if (delivery.reads() && (steps.changes() || item.once())) {
            item.makes(call.id(), body);
        }
        item.bind(call.stage().as(), body);
        reversible(item, effect);
    }

    /** Notes that the change can be reversed; a sample shows at once what that would send. */
    private void reversible(Item item, Effect effect) {
        if (call.undo().steps().isEmpty()) {
            return;
        }
        Item.Reversal reversal =
                new Item.Reversal(call.id(), call.stage().operation(), effect, item.path(), item.scope());
        item.reversible(reversal);
        if (steps.looking()) {
            steps.reversals().show(item, reversal);
        }
    }

    /** Uses what is known from before a crash; tells whether there was anything. */
    private boolean replayed(Item item, Effect effect) throws Failed, Stopped {
        Node made = item.made(call.id());
        if (made != null) {
            whole(made);
            item.bind(call.stage().as(), made);
            return true;
        }
        Failure failed = item.replay().failed(item.path(), call.id());
        if (failed != null && !item.replay().claimed(effect) && !item.replay().isDone(effect)) {
            item.passes(Passage.bare(effect, Passage.Outcome.NOT_DONE));
            throw new Failed(failed, false);
        }
        if (item.replay().claimed(effect)) {
            return asked(item, effect);
        }
        Node reply;
        try {
            reply = item.replay().done(effect);
        } catch (XmlProblem e) {
            throw new Failed(
                    Failure.of(FailureClass.REPLY, "the kept reply cannot be read", e.getMessage(), call.id()), false);
        }
        if (reply == null) {
            return false;
        }
        item.passes(Passage.bare(effect, Passage.Outcome.DONE));
        whole(reply);
        item.bind(call.stage().as(), judged(item, reply, 200, 1));
        return true;
    }

    /**
     * Says what became of a change that was claimed before a crash, or whose answer never came.
     *
     * @return whether it is done; else it may be sent
     */
    private boolean asked(Item item, Effect effect) throws Failed, Stopped {
        Failure doubt = Failure.of(
                        FailureClass.CONNECTION,
                        "interrupted while it was sent",
                        "the run was interrupted after the request may have left: nobody knows whether it arrived",
                        call.id())
                .inDoubt();
        Node instead;
        try {
            if (inquiry == null) {
                throw new Failed(doubt);
            }
            instead = inquiry.ask(item, doubt);
        } catch (Failed failed) {
            item.passes(Passage.bare(effect, Passage.Outcome.IN_DOUBT));
            throw failed;
        }
        Passage.Outcome outcome = instead == null ? Passage.Outcome.NOT_DONE : Passage.Outcome.DONE;
        Passage told = Passage.bare(effect, outcome);
        // its reply never came: who goes on once more asks once more
        steps.claims().known(new Ledger.KnownPassage(item.ordinal(), told, instead == null ? null : ""));
        if (instead == null) {
            return false;
        }
        item.passes(told);
        item.bind(call.stage().as(), instead);
        return true;
    }

    /** Refuses to go on with a reply whose attachment was not kept. */
    private void whole(Node reply) throws Failed {
        long gone = KeptNode.gone(reply);
        if (gone > 0) {
            throw new Failed(
                    Failure.of(
                            FailureClass.REPLY,
                            "an attachment was not kept",
                            "the run was interrupted, and an attachment of " + (gone >> 20)
                                    + " MB in this reply was too large to be kept until it went on",
                            call.id()),
                    false);
        }
    }

    /**
     * Asks for page after page; an item that reads takes one at a time. A page that is tried again is asked for again, not
     * those before it.
     */
    private void paged(Item item, Passage before, Effect first) throws Failed, Stopped {
        Pages pages = item.paging().of(call.id());
        if (pages == null) {
            pages = new Pages(call.pages(), call.id());
            item.paging().asks(call.id(), pages);
        }
        Passage tried = before;
        Effect effect = first;
        Scope scope = item.scope();
        do {
            pages.mayAsk();
            Scope asking = scope.with(Paging.VARIABLE, pages.page());
            Node body = answered(item, request(asking), tried, effect);
            List<Node> rows = pages.takes(body, asking.with(call.stage().as(), body));
            item.scope(scope);
            if (item.paging().takesPage(rows)) {
                return;
            }
            pages.keeps(body, rows);
            item.holds(body);
            item.fits(call.id());
            tried = null;
            effect = item.next(call.id());
        } while (!pages.over());
        Node whole = pages.whole();
        item.paging().asks(call.id(), null);
        if (steps.changes() || item.once()) {
            item.makes(call.id(), whole);
        }
        item.shows(call.stage().as(), whole);
    }

    private byte[] request(Scope from) throws Failed {
        ByteOut out = BUFFER.get();
        out.back(0);
        Scope scope = from.knowing(secrets);
        List<MappingProblem> problems = call.request().write(scope, out);
        if (!problems.isEmpty()) {
            throw new Failed(Failure.of(problems, call.id()));
        }
        return out.bytes();
    }

    private Node remembered(Item item, byte[] request, Passage before, Effect effect) throws Failed, Stopped {
        CallMemory.Entry entry = memory.entry(request);
        if (!entry.mine()) {
            Node body = entry.waitFor(steps.stop());
            // who asked got no answer: one asks oneself
            return body != null ? body : answered(item, request, before, effect);
        }
        try {
            Node body = answered(item, request, before, effect);
            memory.keep(entry, body);
            return body;
        } finally {
            memory.release(entry);
        }
    }

    private Node answered(Item item, byte[] request, Passage before, Effect effect) throws Failed, Stopped {
        List<Passage.Attempt> attempts = new ArrayList<>(before == null ? List.of() : before.attempts());
        boolean changes = !delivery.reads();
        while (true) {
            if (changes) {
                // durable before it leaves
                steps.claims()
                        .claim(new Claim(
                                item.ordinal(),
                                item.fingerprint(),
                                effect,
                                item.replay().text(item.path()),
                                item.last()));
                item.sending(true);
            }
            Sent sent;
            try {
                sent = sent(item, request);
            } catch (Stopped e) {
                notSent(item, effect);
                throw e;
            }
            if (sent.down()) {
                // against no attempt and no limit: the endpoint rests, the record waits
                notSent(item, effect);
                continue;
            }
            attempts.add(attempt(attempts.size() + 1, sent));
            return known(item, request, sent, attempts, effect);
        }
    }

    private void notSent(Item item, Effect effect) {
        if (!delivery.reads()) {
            Passage nothing = Passage.bare(effect, Passage.Outcome.NOT_DONE);
            steps.claims().known(new Ledger.KnownPassage(item.ordinal(), nothing, null));
            item.sending(false);
        }
    }

    private record Sent(Caller.Result result, Instant start, long millis, boolean down) {
        int status() {
            return result.answer() == null ? 0 : result.answer().status();
        }
    }

    private Sent sent(Item item, byte[] request) throws Stopped {
        place();
        try {
            line.gate().enter(steps.stop());
            Instant start = steps.doors().clock().instant();
            long from = System.nanoTime();
            String down = null;
            try (MemoryBudget.Share loan = item.room().loan()) {
                Caller.Result result = line.caller().call(request, item.room().with(loan));
                long millis = (System.nanoTime() - from) / 1_000_000;
                CallFailure failure = result.failure();
                int status = result.answer() == null ? 0 : result.answer().status();
                boolean counts = failure != null
                        && line.gate().rests()
                        && line.reach().settings().down().holds(failure, status);
                down = counts ? failure.getMessage() : null;
                boolean waits = counts && outcome(failure, status) == Passage.Outcome.NOT_DONE;
                return new Sent(result, start, millis, waits);
            } finally {
                line.gate().leave(down);
            }
        } finally {
            places.release();
        }
    }

    private void place() throws Stopped {
        try {
            while (!places.tryAcquire(100, TimeUnit.MILLISECONDS)) {
                if (steps.stop().stopped()) {
                    throw new Stopped();
                }
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new Stopped();
        }
    }

    private static Passage.Attempt attempt(int number, Sent sent) {
        CallFailure failure = sent.result().failure();
        return new Passage.Attempt(
                number,
                sent.start(),
                sent.millis(),
                sent.status(),
                failure == null || failure.sent(),
                failure == null ? null : failure.getMessage());
    }

    /** Records what became of a call and returns its reply. */
    private Node known(Item item, byte[] request, Sent sent, List<Passage.Attempt> attempts, Effect effect)
            throws Failed {
        CallFailure failure = sent.result().failure();
        Passage.Outcome outcome = failure == null ? Passage.Outcome.DONE : outcome(failure, sent.status());
        Passage.Exchange exchange = exchange(request, sent);
        Node body = failure == null ? body(sent.result().reply()) : null;
        Failed failed = null;
        Node judged = null;
        if (failure == null) {
            try {
                judged = judged(item, body, sent.status(), attempts.size());
            } catch (Failed e) {
                failed = e;
                if (e.failure().failureClass() == FailureClass.CONDITION) {
                    outcome = Passage.Outcome.NOT_DONE;
                }
            }
        }
        boolean odd = failed != null || failure != null || item.note() != null;
        boolean kept = delivery.keep() == Delivery.Keep.ALL
                || delivery.keep() == Delivery.Keep.FAILURES && (odd || item.ordinal() <= FIRST_KEPT);
        Passage passage =
                new Passage(effect, outcome, !delivery.reads(), List.copyOf(attempts), kept ? exchange : null);
        item.passes(passage);
        if (!delivery.reads()) {
            item.sending(false);
            boolean done = outcome == Passage.Outcome.DONE;
            String reply = done && body != null ? KeptNode.write(body) : done ? "" : null;
            // a reply that cannot be read is known to be done, and is not needed any more
            steps.claims().known(new Ledger.KnownPassage(item.ordinal(), passage, reply));
        }
        if (failure != null) {
            throw failed(item, failure, sent.status(), attempts.size(), outcome);
        }
        if (failed != null) {
            boolean again = delivery.reads() || outcome == Passage.Outcome.NOT_DONE;
            throw new Failed(failed.failure(), again);
        }
        return judged;
    }

    /** What became of an effect whose call failed: only what surely did not take effect may be sent again. */
    private Passage.Outcome outcome(CallFailure failure, int status) {
        if (!failure.sent() || delivery.reads()) {
            return Passage.Outcome.NOT_DONE;
        }
        if (failure.fault() != null) {
            return leavesDoubt(failure.fault()) ? Passage.Outcome.IN_DOUBT : Passage.Outcome.NOT_DONE;
        }
        return switch (failure.failureClass()) {
            case FAULT -> Passage.Outcome.NOT_DONE;
            case HTTP_STATUS -> status >= 400 && status < 500 && status != 408
                    ? Passage.Outcome.NOT_DONE
                    : Passage.Outcome.IN_DOUBT;
            case REPLY -> failure.answered() && status >= 200 && status < 300
                    ? Passage.Outcome.DONE
                    : Passage.Outcome.IN_DOUBT;
            default -> Passage.Outcome.IN_DOUBT;
        };
    }

    /** Tells whether the call names this fault as one after which nobody knows what became of the change. */
    private boolean leavesDoubt(SoapFault fault) {
        List<String> named = delivery.doubtfulFaults();
        if (named.isEmpty()) {
            return false;
        }
        TypedFault typed = TypedFault.of(fault, call.offered().operation(), call.contract());
        boolean declared = typed.name() != null && named.contains(typed.name());
        return declared || named.contains(fault.label()) || named.contains(fault.code());
    }

    private Failed failed(Item item, CallFailure failure, int status, int attempts, Passage.Outcome outcome) {
        String cause = failure.causeLabel();
        String message = failure.getMessage();
        FailureClass failureClass = failure.failureClass();
        Node fault = null;
        if (failure.fault() != null) {
            TypedFault typed = TypedFault.of(failure.fault(), call.offered().operation(), call.contract());
            item.note(typed.note());
            fault = failure.fault().node();
            failureClass = FailureClass.FAULT;
            cause = typed.name() == null ? cause : typed.name();
            message += typed.fields().isEmpty() ? "" : " (" + String.join(", ", typed.fields()) + ")";
        }
        Failure why = Failure.of(failureClass, cause, message, call.id()).of(status, attempts, fault);
        return outcome == Passage.Outcome.IN_DOUBT
                ? new Failed(why.inDoubt())
                : new Failed(why, outcome == Passage.Outcome.NOT_DONE);
    }

    private static Node body(Reply reply) {
        return reply.body().isEmpty() ? NOTHING : reply.body().get(0);
    }

    /** Checks a reply against the contract and the conditions; returns it with the documents in it opened. */
    private Node judged(Item item, Node body, int status, int attempts) throws Failed {
        String as = call.stage().as();
        try {
            item.shows(as, body);
            if (call.reply() != null && delivery.strict()) {
                List<String> wrong = call.contract()
                        .check()
                        .problems(NodeWriter.write(Xop.standIns(body), false).getBytes(StandardCharsets.UTF_8));
                if (!wrong.isEmpty()) {
                    item.note(check.note(body));
                    throw failed(FailureClass.REPLY, "reply not valid", wrong.get(0), status, attempts);
                }
            }
            List<MappingProblem> problems = new ArrayList<>();
            Node opened = call.documents().opened(body, problems);
            item.note(check == null ? null : check.note(opened));
            if (!problems.isEmpty()) {
                throw new Failed(Failure.of(problems, call.id()).of(status, attempts, null), false);
            }
            item.shows(as, opened);
            for (CompiledCall.Test test : call.tests()) {
                test(test, item, status, attempts);
            }
            return opened;
        } catch (Content.TooLarge e) {
            throw failed(FailureClass.MAPPING, "attachment too large", e.getMessage(), status, attempts);
        }
    }

    private void test(CompiledCall.Test test, Item item, int status, int attempts) throws Failed {
        String said = test.condition().message();
        String label = said == null || said.isBlank() ? test.condition().expression() : said;
        Failure failure;
        try {
            if (!test.expression().test(item.scope())) {
                return;
            }
            failure = Failure.of(FailureClass.CONDITION, label, "the reply counts as failed: " + label, call.id());
        } catch (ExpressionProblem e) {
            failure = Failure.of(FailureClass.CONDITION, label + " cannot be decided", e.getMessage(), call.id());
        }
        throw new Failed(failure.blaming(test.condition().id()).of(status, attempts, null));
    }

    private Failed failed(FailureClass failureClass, String cause, String message, int status, int attempts) {
        return new Failed(Failure.of(failureClass, cause, message, call.id()).of(status, attempts, null), false);
    }

    private Passage.Exchange exchange(byte[] request, Sent sent) {
        if (delivery.keep() == Delivery.Keep.NONE) {
            return null;
        }
        byte[] out = sent.result().sent();
        return new Passage.Exchange(
                line.reach().address(),
                kept(out == null ? line.reach().masking().mask(request) : out),
                sent.status(),
                kept(sent.result().received()));
    }

    /** What is kept of an exchange waits in memory for the ledger: not more than the ledger would take. */
    private static byte[] kept(byte[] text) {
        return text == null || text.length <= Passage.Exchange.MOST_BYTES
                ? text
                : Arrays.copyOf(text, Passage.Exchange.MOST_BYTES);
    }
}
