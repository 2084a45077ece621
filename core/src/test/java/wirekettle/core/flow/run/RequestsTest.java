package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.fill.Fill;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.file.AnswerStage;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.flow.file.NamedText;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.record.InputShape;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.value.Column;
import wirekettle.core.value.ScalarType;

/** Records that callers send while the run goes on, each answered when its end is durable. */
public class RequestsTest extends OutlineFixture {
    private static final ReadStage INPUT = ReadStage.of(
            "read",
            new InputShape(List.of(new Column("key", "key", ScalarType.STRING, null, true)), null, null),
            "$input/key");

    private record Told(LedgerLine line, Answer answer) {}

    private final List<LedgerLine> kept = Collections.synchronizedList(new ArrayList<>());
    private final List<Answered.Ending> answered = Collections.synchronizedList(new ArrayList<>());
    private Requests requests;
    private FlowRun run;
    private CompletableFuture<FlowRun.Ended> going;

    private static AnswerStage answers(String id, String status, String expression) {
        return AnswerStage.of(
                id,
                status,
                List.of(new Column("said", "said", ScalarType.STRING, null, false)),
                List.of(Fill.expression(id + "f", "said", expression)));
    }

    private void begins(Stage... stages) {
        List<Stage> all = new ArrayList<>(List.of(INPUT));
        all.addAll(List.of(stages));
        CompiledFlow flow = sound(FlowFile.of("Asked", all.toArray(Stage[]::new)));
        kept.clear();
        answered.clear();
        requests = new Requests("callers", endings -> {
            assertTrue(
                    kept.stream().noneMatch(line -> endings.stream().anyMatch(each -> each.line() == line)),
                    "it is kept before its end is durable");
            answered.addAll(endings);
        });
        Ledger ledger = batch -> kept.addAll(batch.ends());
        run = new FlowRun(
                flow,
                doors(flow),
                new RunNames("1", "callers", "", Map.of()),
                requests,
                new Outputs(Map.of()),
                ledger,
                Past.NONE,
                FlowRun.Extent.ALL);
        going = CompletableFuture.supplyAsync(() -> {
            try {
                return run.run();
            } catch (IOException e) {
                throw new UncheckedIOException(e);
            } finally {
                requests.over();
            }
        });
    }

    private CompletableFuture<Told> send(String key) {
        CompletableFuture<Told> told = new CompletableFuture<>();
        requests.send(World.record("input", "key", key), null, (line, answer) -> told.complete(new Told(line, answer)));
        return told;
    }

    private static Told told(CompletableFuture<Told> waits) throws Exception {
        return waits.get(20, TimeUnit.SECONDS);
    }

    @Test
    public void aCallerDoesNotWaitForAnother() throws Exception {
        CountDownLatch slow = new CountDownLatch(1);
        service = request -> {
            if (reference(request).equals("slow")) {
                await(slow);
            }
            return answer(reference(request), "fine");
        };
        begins(reads("a", "$input/key"), answers("say", null, "$a/status"));
        CompletableFuture<Told> first = send("slow");
        for (int i = 0; i < 50; i++) {
            Told quick = told(send("quick"));
            assertEquals(quick.answer().body(), "{\"said\":\"fine\"}");
            assertEquals(quick.answer().status(), 200);
            assertTrue(kept.contains(quick.line()), "its end is durable before it is answered");
        }
        assertFalse(first.isDone());
        slow.countDown();
        assertEquals(told(first).line().ordinal(), 1);
        requests.finish();
        assertEquals(going.get(20, TimeUnit.SECONDS), FlowRun.Ended.DONE);
        assertEquals(run.totals().ended(), 51);
        assertEquals(run.totals().read(), 51);
    }

    @Test
    public void anAnswerThatWillNotDoRejectsItsRecordAndALaneMayTakeIt() throws Exception {
        Lane lane = new Lane(List.of(Lane.Rule.run(
                "r", List.of(FailureClass.VALIDATION), Lane.Then.REJECT, answers("no", "500", "$failure/message"))));
        begins(answers("say", null, "$input/key").failing(lane));
        CompletableFuture<Told> told = new CompletableFuture<>();
        Requests.Waiting waits = new Requests.Waiting() {
            @Override
            public void ended(LedgerLine line, Answer answer) {
                told.complete(new Told(line, answer));
            }

            @Override
            public String wrong(Answer answer) {
                return answer.status() == 200 ? "it has no name" : null;
            }
        };
        requests.send(World.record("input", "key", "a"), null, waits);
        Told its = told(told);
        assertEquals(its.line().end(), End.REJECTED);
        assertEquals(its.line().failure().cause(), "the answer does not fit");
        assertEquals(its.answer().body(), "{\"said\":\"it has no name\"}");
        // for others it will do
        assertEquals(told(send("b")).answer().body(), "{\"said\":\"b\"}");
        requests.finish();
        assertEquals(going.get(20, TimeUnit.SECONDS), FlowRun.Ended.DONE);
    }

    private static void await(CountDownLatch latch) {
        try {
            latch.await();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    @Test
    public void whatFailsIsAnsweredByItsLaneOrNotAtAll() throws Exception {
        service = request -> reference(request).matches("bad|late-2")
                ? fault("no such reference")
                : answer(reference(request), "fine");
        Lane lane =
                new Lane(List.of(Lane.Rule.run("r", ANY, Lane.Then.REJECT, answers("no", "404", "$failure/message"))));
        begins(
                answers("early", "202", "'taken'"),
                reads("a", "$input/key").failing(lane),
                reads("b", "concat($input/key, '-2')"));
        assertEquals(told(send("good")).answer().status(), 202);
        Told refused = told(send("bad"));
        assertEquals(refused.line().end(), End.REJECTED);
        assertEquals(refused.answer().status(), 404);
        assertTrue(
                refused.answer().body().contains("no such reference"),
                refused.answer().body());
        Told silent = told(send("late"));
        assertEquals(silent.line().end(), End.REJECTED);
        assertNull(silent.answer(), "what was to be answered before it failed is not");
        requests.finish();
        assertEquals(going.get(20, TimeUnit.SECONDS), FlowRun.Ended.DONE);
    }

    @Test
    public void whoeverWaitsIsToldWhenTheRunStops() throws Exception {
        CountDownLatch slow = new CountDownLatch(1);
        service = request -> {
            await(slow);
            return answer(reference(request), "fine");
        };
        begins(reads("a", "$input/key"), answers("say", null, "$a/status"));
        List<CompletableFuture<Told>> all = new ArrayList<>();
        for (int i = 0; i < 100; i++) {
            all.add(send("k" + i));
        }
        run.cancel(true);
        slow.countDown();
        assertEquals(going.get(20, TimeUnit.SECONDS), FlowRun.Ended.CANCELLED);
        int ended = 0;
        for (CompletableFuture<Told> each : all) {
            ended += told(each).line() == null ? 0 : 1;
        }
        assertEquals(ended, kept.size(), "who is told of an end has one in the ledger");
        assertTrue(ended < 100, ended + " of 100");
    }

    /** One who does not wait, or may ask again. */
    private CompletableFuture<Told> leaves(String key) {
        CompletableFuture<Told> told = new CompletableFuture<>();
        requests.send(World.record("input", "key", key), null, new Requests.Waiting() {
            @Override
            public void ended(LedgerLine line, Answer answer) {
                told.complete(new Told(line, answer));
            }

            @Override
            public boolean kept() {
                return true;
            }
        });
        return told;
    }

    @Test
    public void theAnswerOfOneWhoAsksLaterIsKeptBeforeItsEndIsDurable() throws Exception {
        service = request -> answer(reference(request), "fine");
        AnswerStage said = answers("say", null, "$a/status");
        begins(
                reads("a", "$input/key"),
                new AnswerStage(
                        said.id(),
                        "201",
                        "",
                        said.columns(),
                        said.fills(),
                        null,
                        null,
                        List.of(
                                new NamedText("X-Loan", "concat('loan ', $input/key)"),
                                new NamedText("X-None", "$a/gone")),
                        null));
        told(send("waits"));
        assertEquals(answered, List.of(), "who waits is not asked for later");
        Told told = told(leaves("leaves"));
        assertEquals(answered.size(), 1);
        assertEquals(answered.get(0).line(), told.line());
        assertEquals(answered.get(0).answer(), told.answer());
        assertEquals(told.answer().status(), 201);
        assertEquals(told.answer().headers(), Map.of("X-Loan", "loan leaves"));
        requests.finish();
        going.get(20, TimeUnit.SECONDS);
    }

    @Test
    public void aHeaderIsOneOfHttpAndTheFlowsToSet() throws Exception {
        AnswerStage said = answers("say", null, "'x'");
        for (NamedText wrong : List.of(
                new NamedText("X Loan", "'x'"),
                new NamedText("content-length", "'7'"),
                new NamedText("X-Loan", " "),
                new NamedText("X-Loan", "'"))) {
            FlowFile file = FlowFile.of(
                    "Headed",
                    INPUT,
                    new AnswerStage("say", null, "", said.columns(), said.fills(), null, null, List.of(wrong), null));
            assertTrue(compiled(file).problems().toString().contains("eader"), wrong.toString());
        }
        begins(new AnswerStage(
                "say",
                null,
                "",
                said.columns(),
                said.fills(),
                null,
                null,
                List.of(new NamedText("X-Loan", "$input/key")),
                null));
        Told split = told(send("a\r\nSet-Cookie: b"));
        assertEquals(split.line().end(), End.REJECTED);
        assertTrue(
                split.line().failure().message().contains("printable"),
                split.line().toString());
        requests.finish();
        going.get(20, TimeUnit.SECONDS);
    }

    @Test
    public void aRecordThatIsNoUseIsRejectedWithoutWork() throws Exception {
        begins(reads("a", "$input/key"));
        CompletableFuture<Told> told = new CompletableFuture<>();
        requests.send(
                World.record("input", "key", "x"),
                "its caller is gone",
                (line, answer) -> told.complete(new Told(line, answer)));
        assertEquals(told(told).line().end(), End.REJECTED);
        assertEquals(sent, List.of());
        requests.finish();
        going.get(20, TimeUnit.SECONDS);
    }

    @Test
    public void whatCallersSendHasAShape() {
        ReadStage empty = ReadStage.of("read", new InputShape(null, null, null), null);
        assertTrue(compiled(FlowFile.of("None", empty, answers("say", null, "'x'")))
                .problems()
                .toString()
                .contains("nothing is said of what callers send"));
        FlowFile both = FlowFile.of(
                "Both",
                new ReadStage("read", "loans", null, INPUT.input(), "input", null, null, null, null, null),
                answers("say", null, "'x'"));
        assertTrue(compiled(both).problems().toString().contains("take one of them away"));
    }
}
