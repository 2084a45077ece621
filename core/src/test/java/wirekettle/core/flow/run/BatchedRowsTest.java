package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.io.IOException;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.atomic.AtomicLong;
import org.testng.annotations.BeforeMethod;
import org.testng.annotations.Test;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

public class BatchedRowsTest {
    private final List<Set<String>> questions = Collections.synchronizedList(new ArrayList<>());
    private final AtomicLong nanos = new AtomicLong();
    private volatile CountDownLatch answerable;
    private volatile String refused;
    private BatchedRows rows;

    /** A table that has a row for every key but those that begin with an x. */
    private final KeyedRows table = new KeyedRows() {
        @Override
        public Map<String, List<Node>> rows(Set<String> keys) throws IOException {
            questions.add(new TreeSet<>(keys));
            try {
                answerable.await();
            } catch (InterruptedException e) {
                throw new IOException(e);
            }
            if (refused != null) {
                throw new IOException(refused);
            }
            Map<String, List<Node>> found = new HashMap<>();
            keys.stream()
                    .filter(key -> !key.startsWith("x"))
                    .forEach(key -> found.put(
                            key,
                            List.of(Node.build(Name.of("record")).add("no", key).done())));
            return found;
        }

        @Override
        public void close() {}
    };

    @BeforeMethod
    public void fresh() {
        questions.clear();
        nanos.set(0);
        answerable = new CountDownLatch(0);
        refused = null;
        rows = new BatchedRows(table, nanos::get);
    }

    private String found(String key) {
        try {
            List<Node> its = rows.rows(key);
            return its.isEmpty() ? "none" : its.get(0).textOf("no");
        } catch (IOException e) {
            return e.getMessage();
        }
    }

    /** Waits until a question is on its way. */
    private void asked() {
        while (questions.isEmpty()) {
            Thread.onSpinWait();
        }
    }

    @Test
    public void keysLookedForMeanwhileGoTogetherWithTheNextQuestion() throws Exception {
        answerable = new CountDownLatch(1);
        CompletableFuture<String> first = CompletableFuture.supplyAsync(() -> found("a"));
        asked();
        List<Thread> others = new ArrayList<>();
        Map<String, String> answers = Collections.synchronizedMap(new HashMap<>());
        for (String key : List.of("b", "c", "x", "b")) {
            Thread thread = new Thread(() -> answers.put(key, found(key)));
            thread.start();
            others.add(thread);
            while (thread.getState() != Thread.State.WAITING) {
                Thread.onSpinWait();
            }
        }
        answerable.countDown();
        assertEquals(first.join(), "a");
        for (Thread each : others) {
            each.join();
        }
        assertEquals(answers, Map.of("b", "b", "c", "c", "x", "none"));
        assertEquals(questions, List.of(Set.of("a"), Set.of("b", "c", "x")));
    }

    @Test
    public void rowsAreKeptForTenMinutesThoseThatAreNotThereToo() {
        assertEquals(found("a") + found("x") + found("a") + found("x"), "anoneanone");
        assertEquals(questions.size(), 2);
        nanos.addAndGet(599_000_000_000L);
        found("a");
        assertEquals(questions.size(), 2);
        nanos.addAndGet(2_000_000_000L);
        found("a");
        assertEquals(questions.size(), 3);
    }

    @Test
    public void aQuestionThatFailsIsAskedAgainByTheNextWhoLooks() {
        refused = "the database says: no";
        assertEquals(found("a"), "the database says: no");
        refused = null;
        assertEquals(found("a"), "a");
    }

    @Test
    public void memoryIsBounded() {
        String large = "k".repeat(1 << 20);
        for (int i = 0; i < 40; i++) {
            found(i + large);
        }
        found(39 + large);
        assertEquals(questions.size(), 40, "the last is kept");
        found(0 + large);
        assertEquals(questions.size(), 41, "the first made room");
    }

    @Test
    public void aProgramThatThrowsIsToldToEverybodyWhoWaits() {
        BatchedRows broken = new BatchedRows(
                new KeyedRows() {
                    @Override
                    public Map<String, List<Node>> rows(Set<String> keys) {
                        throw new IllegalStateException("broken");
                    }

                    @Override
                    public void close() {}
                },
                nanos::get);
        IOException told = expectThrows(IOException.class, () -> broken.rows("a"));
        assertTrue(told.getMessage().contains("broken"), told.getMessage());
    }
}
