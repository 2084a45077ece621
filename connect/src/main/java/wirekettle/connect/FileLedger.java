package wirekettle.connect;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.io.BufferedInputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.flow.run.Claim;
import wirekettle.core.flow.run.Effect;
import wirekettle.core.flow.run.End;
import wirekettle.core.flow.run.KeptNode;
import wirekettle.core.flow.run.Ledger;
import wirekettle.core.flow.run.LedgerLine;
import wirekettle.core.flow.run.Past;
import wirekettle.core.flow.run.Totals;
import wirekettle.core.value.Node;
import wirekettle.core.xml.XmlProblem;

/**
 * A run's books in a file: a line of JSON for each claim, passage and end, and one for what the run has come to after
 * each batch. What is behind the last of these did not become durable and is cut off when the run goes on. Holds the
 * fingerprints of the records that ended in memory when it is read.
 */
public final class FileLedger implements Ledger, Past, AutoCloseable {
    private static final ObjectMapper JSON = new ObjectMapper();

    private final FileChannel channel;
    private final Map<Long, String> ended = new HashMap<>();
    private final Map<Long, Past.OpenRecord> open = new HashMap<>();
    private final List<Past.OpenRecord> leaders = new ArrayList<>();
    private final Map<String, Long> held = new LinkedHashMap<>();
    private final Map<String, String> carried = new HashMap<>();
    private final Map<String, Long> positions = new LinkedHashMap<>();
    private Totals totals = Totals.NONE;
    private boolean over;

    private FileLedger(FileChannel channel) {
        this.channel = channel;
    }

    /**
     * Begins a ledger.
     *
     * @throws IOException when there is one already
     */
    public static FileLedger begin(Path file) throws IOException {
        if (Files.exists(file) && Files.size(file) > 0) {
            throw new IOException("there is a ledger at " + file + ": go on with --resume, or name another file");
        }
        return new FileLedger(FileChannel.open(file, StandardOpenOption.CREATE, StandardOpenOption.WRITE));
    }

    /**
     * Opens the ledger of a run that goes on.
     *
     * @throws IOException when there is none, it is damaged or its run has ended
     */
    public static FileLedger resume(Path file) throws IOException {
        if (!Files.exists(file)) {
            throw new IOException("there is no ledger at " + file + " to go on from");
        }
        FileLedger ledger = new FileLedger(FileChannel.open(file, StandardOpenOption.READ, StandardOpenOption.WRITE));
        ledger.channel.truncate(ledger.read(Files.newInputStream(file)));
        ledger.leaders.addAll(ledger.open.values());
        Past.OpenRecord.batches(ledger.leaders, ledger.open, ledger.ended::containsKey);
        if (ledger.over) {
            ledger.close();
            throw new IOException("the run of the ledger " + file + " has ended: there is nothing to go on with");
        }
        ledger.channel.position(ledger.channel.size());
        return ledger;
    }

    /** Reads what is durable; returns how many bytes that is. */
    private long read(InputStream in) throws IOException {
        long sound = 0;
        long at = 0;
        String damage = null;
        List<JsonNode> batch = new ArrayList<>();
        try (in) {
            BufferedInputStream lines = new BufferedInputStream(in, 1 << 16);
            ByteArrayOutputStream line = new ByteArrayOutputStream();
            for (int b = lines.read(); b >= 0; b = lines.read()) {
                at++;
                if (b != '\n') {
                    line.write(b);
                    continue;
                }
                JsonNode entry = null;
                try {
                    entry = JSON.readTree(line.toByteArray());
                } catch (JsonProcessingException e) {
                    // torn by a crash, when nothing sound is behind it
                    damage = damage == null ? "byte " + at + ": " + e.getOriginalMessage() : damage;
                }
                line.reset();
                if (entry == null) {
                    continue;
                }
                batch.add(entry);
                over |= entry.has("over");
                if (entry.has("totals")) {
                    if (damage != null) {
                        throw new IOException("the ledger is damaged at " + damage);
                    }
                    for (JsonNode each : batch) {
                        take(each);
                    }
                    batch.clear();
                    sound = at;
                }
            }
        }
        return sound;
    }

    private void take(JsonNode entry) throws IOException {
        long ordinal = entry.path("ordinal").asLong();
        if (entry.has("claim")) {
            open.put(
                    ordinal,
                    Past.OpenRecord.claimed(
                            open.get(ordinal),
                            entry.get("fingerprint").asText(),
                            effect(entry, "claim"),
                            entry.get("made").asText()));
        } else if (entry.has("passage")) {
            Past.OpenRecord known = open.get(ordinal);
            if (known != null) {
                known.replay()
                        .passage(
                                effect(entry, "passage"),
                                entry.hasNonNull("reply") ? entry.get("reply").asText() : null);
            }
        } else if (entry.has("end")) {
            Past.OpenRecord known = ordinal > 0 ? open.remove(ordinal) : null;
            if (known != null && known.leads()) {
                leaders.add(known);
            }
            ended.put(ordinal, entry.get("fingerprint").asText());
            if (entry.hasNonNull("carried")) {
                hands(entry.get("key").asText(), entry.get("carried").asText());
            }
            String end = entry.get("end").asText();
            if (entry.hasNonNull("key") && (end.equals(End.REJECTED.word()) || end.equals(End.IN_DOUBT.word()))) {
                held.putIfAbsent(entry.get("key").asText(), ordinal);
            }
        } else {
            totals = JSON.treeToValue(entry.get("totals"), Totals.class);
            entry.get("positions")
                    .properties()
                    .forEach(
                            each -> positions.put(each.getKey(), each.getValue().asLong()));
        }
    }

    /** An entry names the stage of its effect under the word for what it is. */
    private static Effect effect(JsonNode entry, String what) {
        return new Effect(
                entry.path("path").asText(""),
                entry.get(what).asText(),
                entry.get("number").asInt());
    }

    private static ObjectNode entry(String what, long ordinal, Effect effect) {
        ObjectNode line = JSON.createObjectNode();
        line.put(what, effect.stage()).put("number", effect.number()).put("ordinal", ordinal);
        if (!effect.path().isEmpty()) {
            line.put("path", effect.path());
        }
        return line;
    }

    @Override
    public void keep(Batch batch) throws IOException {
        StringBuilder text = new StringBuilder();
        for (Claim claim : batch.claims()) {
            ObjectNode line = entry("claim", claim.ordinal(), claim.effect());
            line.put("fingerprint", claim.fingerprint()).put("made", claim.made());
            text.append(line).append('\n');
        }
        for (Ledger.KnownPassage known : batch.passages()) {
            ObjectNode line = entry("passage", known.ordinal(), known.passage().effect());
            line.put("outcome", known.passage().outcome().word()).put("reply", known.reply());
            text.append(line).append('\n');
        }
        for (LedgerLine end : batch.ends()) {
            text.append(line(end)).append('\n');
            if (end.carried() != null) {
                hands(end.key(), KeptNode.write(end.carried()));
            }
        }
        ObjectNode now = JSON.createObjectNode();
        now.set("positions", JSON.valueToTree(batch.positions()));
        now.set("totals", JSON.valueToTree(batch.totals()));
        text.append(now).append('\n');
        ByteBuffer bytes = ByteBuffer.wrap(text.toString().getBytes(StandardCharsets.UTF_8));
        while (bytes.hasRemaining()) {
            channel.write(bytes);
        }
        channel.force(false);
    }

    /** Notes that the run has ended and its results are in their places. */
    public void over() throws IOException {
        channel.write(ByteBuffer.wrap("{\"over\":true}\n".getBytes(StandardCharsets.UTF_8)));
        channel.force(false);
    }

    private static ObjectNode line(LedgerLine end) {
        ObjectNode line = JSON.createObjectNode();
        line.put("end", end.end().word()).put("ordinal", end.ordinal()).put("key", end.key());
        line.put("fingerprint", end.fingerprint()).put("rows", end.rows()).put("calls", end.calls());
        if (end.carried() != null) {
            line.put("carried", KeptNode.write(end.carried()));
        }
        if (end.failure() != null) {
            line.put("class", end.failure().failureClass().word())
                    .put("cause", end.failure().cause());
            line.put("message", end.failure().message())
                    .put("stage", end.failure().stage());
        }
        return line;
    }

    @Override
    public String ended(long ordinal) {
        return ended.get(ordinal);
    }

    @Override
    public Past.OpenRecord open(long ordinal) {
        return open.get(ordinal);
    }

    @Override
    public Past.Once once(long ordinal) {
        return new Past.Once(open.get(ordinal), ended.containsKey(ordinal));
    }

    @Override
    public Totals totals() {
        return totals;
    }

    private synchronized void hands(String key, String text) {
        carried.put(key, text);
    }

    @Override
    public boolean carries() {
        return true;
    }

    @Override
    public synchronized Node carried(String key, long ordinal) throws IOException {
        String kept = carried.get(key);
        try {
            return kept == null ? null : KeptNode.read(kept);
        } catch (XmlProblem e) {
            throw new IOException("what a record of the key handed on is damaged: " + e.getMessage(), e);
        }
    }

    @Override
    public Map<String, Long> held() {
        return held;
    }

    /** Returns how far an output was durable, 0 when it was not begun. */
    public long position(String stage) {
        return positions.getOrDefault(stage, 0L);
    }

    @Override
    public void close() throws IOException {
        channel.close();
    }
}
