package wirekettle.core.flow.run;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import wirekettle.core.value.Node;
import wirekettle.core.xml.XmlProblem;

/**
 * What a record made on its way that could not be made again the same: replies of reads and rows looked up, calls that
 * failed, the ways it took, and its time. A record that goes on after a crash takes these instead of asking again. Its
 * items share it. Safe for several threads.
 */
public final class Replay {
    private static final ObjectMapper JSON = new ObjectMapper();

    private String now;
    private String key;
    private final Map<String, Node> made = new LinkedHashMap<>();
    private final Map<String, Node> gathered = new LinkedHashMap<>();
    private final Map<String, Integer> ways = new LinkedHashMap<>();
    private final Map<String, Failure> failures = new LinkedHashMap<>();
    private final Map<String, Failure> undoing = new LinkedHashMap<>();
    private final Map<Effect, String> effects = new LinkedHashMap<>();
    private final Map<String, KeptBatch> led = new LinkedHashMap<>();
    private final Map<String, KnownBatch> batches = new LinkedHashMap<>();
    private final Map<String, Node> accepted = new LinkedHashMap<>();

    /** A batch of before a crash that the record was in; its records share it, and what it came to. */
    static final class KnownBatch {
        private final KeptBatch batch;
        private final Replay leading;
        private Object outcome;

        private KnownBatch(KeptBatch batch, Replay leading) {
            this.batch = batch;
            this.leading = leading;
        }

        KeptBatch batch() {
            return batch;
        }

        /** Returns what the record that led it made and did. */
        Replay leading() {
            return leading;
        }

        /** Returns what it came to, null when that is not known yet; to be asked by who holds it alone. */
        Object outcome() {
            return outcome;
        }

        void comesTo(Object its) {
            outcome = its;
        }
    }

    /** Returns an empty one that begins at an instant. */
    static Replay starting(String now) {
        return starting(now, UUID.randomUUID().toString());
    }

    /** Returns an empty one that begins at an instant, with the key of its record. */
    static Replay starting(String now, String key) {
        Replay replay = new Replay();
        replay.now = now;
        replay.key = key;
        return replay;
    }

    private static String at(String path, String stage) {
        return path.isEmpty() ? stage : path + "\n" + stage;
    }

    /** Returns the record's time. */
    String now() {
        return now;
    }

    /** Returns the record's key. */
    String key() {
        return key;
    }

    /** Returns what a stage made at a place of the record, or null. */
    synchronized Node made(String path, String stage) {
        return made.get(at(path, stage));
    }

    synchronized void makes(String path, String stage, Node node) {
        made.put(at(path, stage), node);
    }

    /** Returns what a Split gathered at a place of the record, or null. */
    synchronized Node gathered(String path, String split) {
        return gathered.get(at(path, split));
    }

    synchronized void gathers(String path, String split, Node node) {
        gathered.put(at(path, split), node);
    }

    /** Returns the number of the way taken at a Branch, -1 for none of them; null when it did not come there. */
    synchronized Integer way(String path, String branch) {
        return ways.get(at(path, branch));
    }

    synchronized void takes(String path, String branch, int way) {
        ways.put(at(path, branch), way);
    }

    /** Returns how a stage failed at a place of the record, null when it did not. */
    synchronized Failure failed(String path, String stage) {
        return failures.get(at(path, stage));
    }

    synchronized void fails(String path, String stage, Failure failure) {
        failures.put(at(path, stage), failure);
    }

    /** Notes that a stage that had failed was tried again and did not. */
    synchronized void works(String path, String stage) {
        failures.remove(at(path, stage));
    }

    /**
     * Returns why what a Split's items did is being taken back, or what the whole record did for no stage; null when it
     * is not.
     */
    synchronized Failure undoing(String path, String split) {
        return undoing.get(at(path, split));
    }

    synchronized void undoes(String path, String split, Failure why) {
        undoing.put(at(path, split), why);
    }

    /**
     * Notes that the record leads a batch.
     *
     * @return where in the record it is: no other batch is ever there
     */
    synchronized String leads(String batch, Node node, List<KeptBatch.Member> members) {
        int number = 1;
        while (led.containsKey(batch + ":" + number)) {
            number++;
        }
        String path = batch + ":" + number;
        led.put(path, new KeptBatch(batch, path, node, members));
        return path;
    }

    /** Returns the batches the record led. */
    synchronized List<KeptBatch> led() {
        return List.copyOf(led.values());
    }

    /**
     * Returns the last record of the batch that a place is in: until it has ended, what is claimed there is needed.
     *
     * @return its ordinal, null for a place in no batch
     */
    synchronized Long lastAt(String path) {
        KeptBatch batch = led.get(path.split("/")[0]);
        return batch == null || batch.members().isEmpty()
                ? null
                : batch.members().get(batch.members().size() - 1).ordinal();
    }

    /** Notes that the record was in a batch before a crash. */
    synchronized void wasIn(KnownBatch batch) {
        batches.put(batch.batch().stage(), batch);
    }

    /** Makes what the records of a batch share. */
    static KnownBatch known(KeptBatch batch, Replay leading) {
        return new KnownBatch(batch, leading);
    }

    /** Returns the batch the record was in at a Batch, or null. */
    synchronized KnownBatch batch(String stage) {
        return batches.get(stage);
    }

    /** Returns the verdict with which a Batch accepted the record in an earlier run, or null. */
    synchronized Node accepted(String stage) {
        return accepted.get(stage);
    }

    /**
     * Returns the verdicts of batches that accepted a record as they are kept for its being sent again, by their stages.
     */
    public static Map<String, String> verdicts(LedgerLine line) {
        Map<String, String> kept = new LinkedHashMap<>();
        for (BatchPlace place : line.batches()) {
            if (place.verdict() != null) {
                kept.put(place.stage(), KeptNode.write(place.verdict()));
            }
        }
        return kept;
    }

    /**
     * Notes the verdicts of an earlier run.
     *
     * @throws IllegalArgumentException when one is damaged
     */
    public synchronized void accepts(Map<String, String> verdicts) {
        for (Map.Entry<String, String> each : verdicts.entrySet()) {
            try {
                accepted.put(each.getKey(), KeptNode.read(each.getValue()));
            } catch (XmlProblem e) {
                throw new IllegalArgumentException("a verdict kept cannot be read: " + e.getMessage(), e);
            }
        }
    }

    /** Tells whether anything was claimed at or below a place of the record. */
    synchronized boolean knows(String path) {
        return effects.keySet().stream().anyMatch(effect -> within(effect.path(), path));
    }

    /**
     * Forgets what keeps a record from being tried anew: how it failed, what its items came to, and what took back what
     * it had done. Where something was taken back, all it had made is made anew too.
     */
    public synchronized void beginAnew() {
        failures.clear();
        undoing.clear();
        gathered.clear();
        if (effects.keySet().removeIf(Effect::undoes)) {
            made.clear();
            ways.clear();
        }
        // what batches did that it led belongs to all their records: each has its verdict of its own
        for (String path : led.keySet()) {
            effects.keySet().removeIf(effect -> within(effect.path(), path));
            made.keySet().removeIf(at -> within(at.split("\n")[0], path));
            ways.keySet().removeIf(at -> within(at.split("\n")[0], path));
        }
        led.clear();
    }

    /** Forgets what was read and decided for a record whose input is another now; what it did stays done. */
    public synchronized void corrected() {
        made.clear();
        ways.clear();
        failures.clear();
        gathered.clear();
    }

    /** Tells whether a change of it is done. */
    public synchronized boolean did() {
        return effects.values().stream().anyMatch(reply -> reply != null);
    }

    /** Returns the changes of it that are done, but for what took something back. */
    synchronized List<Effect> done() {
        return effects.entrySet().stream()
                .filter(each -> each.getValue() != null && !each.getKey().undoes())
                .map(Map.Entry::getKey)
                .toList();
    }

    /** Notes that the numbers a stage had drawn were given back: it draws others. */
    public synchronized void givesBack(String path, String stage) {
        made.remove(at(path, stage));
    }

    private static boolean within(String path, String around) {
        return path.equals(around) || path.startsWith(around + "/");
    }

    /** Tells whether an effect was claimed before, and nothing is known of what became of it. */
    synchronized boolean claimed(Effect effect) {
        return "".equals(effects.get(effect));
    }

    /** Tells whether an effect was done before. */
    synchronized boolean isDone(Effect effect) {
        String reply = effects.get(effect);
        return reply != null && !reply.isEmpty();
    }

    /** Returns what an effect that was done gave, null when it was not done. */
    synchronized Node done(Effect effect) throws XmlProblem {
        String reply = effects.get(effect);
        return reply == null || reply.isEmpty() ? null : KeptNode.read(reply);
    }

    /** Adds what another claim of the record kept: a later one knows more. */
    synchronized void add(Replay other) {
        made.putAll(other.made);
        gathered.putAll(other.gathered);
        ways.putAll(other.ways);
        failures.putAll(other.failures);
        undoing.putAll(other.undoing);
        led.putAll(other.led);
    }

    /** Adds what was kept of the record earlier: what is known already is newer. */
    synchronized void addOlder(Replay other) {
        other.made.forEach(made::putIfAbsent);
        other.gathered.forEach(gathered::putIfAbsent);
        other.ways.forEach(ways::putIfAbsent);
        other.failures.forEach(failures::putIfAbsent);
        other.undoing.forEach(undoing::putIfAbsent);
    }

    /** Notes a claim: the effect is in doubt unless its passage is noted too. */
    public synchronized void claim(Effect effect) {
        effects.putIfAbsent(effect, "");
    }

    /** Notes what became of an effect; the reply of one that was not done is null. */
    public synchronized void passage(Effect effect, String reply) {
        if (reply == null) {
            effects.remove(effect);
        } else {
            effects.put(effect, reply);
        }
    }

    /** Tells whether a place is the one of a path or around it. */
    private static boolean holds(String at, String path) {
        int end = at.indexOf('\n');
        String place = end < 0 ? "" : at.substring(0, end);
        return place.isEmpty() || path.equals(place) || path.startsWith(place + "/");
    }

    /** Returns as a text that a claim keeps what an item needs to go on: what it made, and what holds it. */
    public synchronized String text(String path) {
        ObjectNode text = JSON.createObjectNode();
        text.put("now", now);
        text.put("key", key);
        nodes(text.putObject("made"), made, path);
        nodes(text.putObject("gathered"), gathered, path);
        ObjectNode taken = text.putObject("ways");
        ways.forEach((at, way) -> {
            if (holds(at, path)) {
                taken.put(at, way);
            }
        });
        failures(text.putObject("failures"), failures, path);
        failures(text.putObject("undoing"), undoing, path);
        ObjectNode leading = text.putObject("batches");
        led.forEach((at, batch) -> {
            if (within(path, at)) {
                batch.write(leading.putObject(at));
            }
        });
        return text.toString();
    }

    private static void nodes(ObjectNode into, Map<String, Node> nodes, String path) {
        nodes.forEach((at, node) -> {
            if (holds(at, path)) {
                into.put(at, KeptNode.write(node));
            }
        });
    }

    private static void failures(ObjectNode into, Map<String, Failure> failures, String path) {
        failures.forEach((at, failure) -> {
            if (holds(at, path)) {
                KeptFailure.write(failure, into.putObject(at));
            }
        });
    }

    /**
     * Reads what a claim kept.
     *
     * @throws IllegalArgumentException when it is damaged
     */
    public static Replay of(String text) {
        try {
            JsonNode read = JSON.readTree(text);
            if (!read.isObject()) {
                throw new IllegalArgumentException("what was kept of a record cannot be read: it is empty");
            }
            Replay replay = starting(read.path("now").asText());
            replay.key = read.path("key").asText(replay.key);
            for (Map.Entry<String, JsonNode> each : read.path("made").properties()) {
                replay.made.put(each.getKey(), KeptNode.read(each.getValue().asText()));
            }
            for (Map.Entry<String, JsonNode> each : read.path("gathered").properties()) {
                replay.gathered.put(each.getKey(), KeptNode.read(each.getValue().asText()));
            }
            for (Map.Entry<String, JsonNode> each : read.path("ways").properties()) {
                replay.ways.put(each.getKey(), each.getValue().asInt());
            }
            for (Map.Entry<String, JsonNode> each : read.path("failures").properties()) {
                replay.failures.put(each.getKey(), KeptFailure.read(each.getValue()));
            }
            for (Map.Entry<String, JsonNode> each : read.path("batches").properties()) {
                replay.led.put(each.getKey(), KeptBatch.read(each.getKey(), each.getValue()));
            }
            for (Map.Entry<String, JsonNode> each : read.path("undoing").properties()) {
                replay.undoing.put(each.getKey(), KeptFailure.read(each.getValue()));
            }
            return replay;
        } catch (JsonProcessingException | XmlProblem e) {
            throw new IllegalArgumentException("what was kept of a record cannot be read: " + e.getMessage(), e);
        }
    }
}
