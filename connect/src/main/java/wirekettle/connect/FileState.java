package wirekettle.connect;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.channels.FileLock;
import java.nio.channels.OverlappingFileLockException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.HashMap;
import java.util.Map;
import java.util.TreeSet;
import wirekettle.core.flow.run.DrawnNumber;
import wirekettle.core.flow.run.LedgerLine;
import wirekettle.core.flow.run.Numbers;
import wirekettle.core.value.Series;

/**
 * What runs leave for the next one, in a file they share one after the other: where series stand, and how far operations
 * were read. A line of JSON for each number that is drawn, given back or used, and for each watermark. Safe for several threads of one run; a second run is refused the file while one has it.
 */
public final class FileState implements Numbers, AutoCloseable {
    private static final ObjectMapper JSON = new ObjectMapper();

    private final FileChannel channel;
    private final FileLock lock;
    private final Map<Counted, Long> next = new HashMap<>();
    private final Map<Counted, TreeSet<Long>> free = new HashMap<>();
    private final Map<Held, Long> held = new HashMap<>();
    private final Map<String, String> watermarks = new HashMap<>();
    private int runs;
    private int run;

    private record Counted(String series, int year) {}

    private record Held(int run, Counted of, long ordinal, String path, String stage) {}

    private FileState(FileChannel channel, FileLock lock) {
        this.channel = channel;
        this.lock = lock;
    }

    /**
     * Opens the file, which need not be there yet.
     *
     * @param ledger names the books of the run; empty for a run without
     * @param resume whether a run goes on: what it holds stays its own
     * @throws IOException when it is damaged, or another run has it
     */
    public static FileState open(Path file, String ledger, boolean resume) throws IOException {
        FileChannel channel =
                FileChannel.open(file, StandardOpenOption.CREATE, StandardOpenOption.READ, StandardOpenOption.WRITE);
        try {
            FileLock lock = locked(channel);
            if (lock == null) {
                throw new IOException("another run uses " + file + ": wait until it has ended");
            }
            FileState numbers = new FileState(channel, lock);
            numbers.read(Files.readAllBytes(file), ledger);
            if (!resume || numbers.run == 0) {
                numbers.run = ++numbers.runs;
                numbers.add(JSON.createObjectNode().put("run", numbers.run).put("ledger", ledger));
            }
            return numbers;
        } catch (IOException | RuntimeException e) {
            channel.close();
            throw e;
        }
    }

    private static FileLock locked(FileChannel channel) throws IOException {
        try {
            return channel.tryLock();
        } catch (OverlappingFileLockException e) {
            return null;
        }
    }

    private void read(byte[] bytes, String ledger) throws IOException {
        int from = 0;
        int line = 1;
        for (int at = 0; at < bytes.length; at++) {
            if (bytes[at] != '\n') {
                continue;
            }
            try {
                take(JSON.readTree(bytes, from, at - from), ledger);
            } catch (JsonProcessingException e) {
                throw new IOException("the state is damaged in line " + line + ": " + e.getOriginalMessage());
            }
            from = at + 1;
            line++;
        }
        // what is behind the last line was torn by a crash: nobody has seen that number
        channel.truncate(from);
        channel.position(from);
    }

    private void take(JsonNode entry, String ledger) {
        if (entry.has("run")) {
            runs = Math.max(runs, entry.get("run").asInt());
            run = entry.path("ledger").asText().equals(ledger)
                    ? entry.get("run").asInt()
                    : run;
            return;
        }
        if (entry.has("watermark")) {
            watermarks.put(entry.path("flow").asText(), entry.get("watermark").asText());
            return;
        }
        String what = entry.has("drawn") ? "drawn" : entry.has("back") ? "back" : "used";
        Counted of =
                new Counted(entry.path("series").asText(), entry.path("year").asInt());
        long number = entry.path(what).asLong();
        Held place = entry.has("stage")
                ? new Held(
                        entry.path("of").asInt(),
                        of,
                        entry.path("ordinal").asLong(),
                        entry.path("path").asText(),
                        entry.path("stage").asText())
                : null;
        takes(what, of, number, place);
    }

    private void takes(String what, Counted of, long number, Held place) {
        if (what.equals("drawn")) {
            next.merge(of, number + 1, Math::max);
            free.getOrDefault(of, new TreeSet<>()).remove(number);
            if (place != null) {
                held.put(place, number);
            }
        } else if (held.remove(place) != null && what.equals("back")) {
            free.computeIfAbsent(of, key -> new TreeSet<>()).add(number);
        }
    }

    private void add(ObjectNode line) throws IOException {
        ByteBuffer bytes = ByteBuffer.wrap((line + "\n").getBytes(StandardCharsets.UTF_8));
        while (bytes.hasRemaining()) {
            channel.write(bytes);
        }
        channel.force(false);
    }

    private ObjectNode line(String what, long number, Held place, boolean kept) {
        ObjectNode line = JSON.createObjectNode();
        line.put(what, number)
                .put("series", place.of().series())
                .put("year", place.of().year());
        if (kept) {
            line.put("of", place.run())
                    .put("ordinal", place.ordinal())
                    .put("path", place.path())
                    .put("stage", place.stage());
        }
        return line;
    }

    @Override
    public synchronized long draw(Series series, int year, Place place) throws IOException {
        Counted of = new Counted(series.name(), series.counted(year));
        Held by = new Held(run, of, place.ordinal(), place.path(), place.stage());
        Long known = held.get(by);
        if (known != null) {
            return known;
        }
        TreeSet<Long> back = free.get(of);
        long number = back == null || back.isEmpty() || !series.gapless()
                ? next.getOrDefault(of, series.start())
                : back.first();
        add(line("drawn", number, by, series.gapless()));
        takes("drawn", of, number, series.gapless() ? by : null);
        return number;
    }

    /** Settles the numbers of a record whose end is durable. */
    public synchronized void settle(LedgerLine line) throws IOException {
        for (DrawnNumber drawn : line.numbers()) {
            if (drawn.series().gapless()) {
                boolean back = drawn.fate() == DrawnNumber.Fate.GIVEN_BACK;
                settle(line.ordinal(), drawn.series(), drawn.year(), drawn.path(), drawn.stage(), back);
            }
        }
    }

    private void settle(long ordinal, Series series, int year, String path, String stage, boolean back)
            throws IOException {
        Held by = new Held(run, new Counted(series.name(), series.counted(year)), ordinal, path, stage);
        Long number = held.get(by);
        if (number != null) {
            String what = back ? "back" : "used";
            add(line(what, number, by, true));
            takes(what, by.of(), number, by);
        }
    }

    /** Returns how far a flow has read its operation, null when it never did. */
    public synchronized String watermark(String flow) {
        return watermarks.get(flow);
    }

    /** Keeps how far a flow has read its operation. */
    public synchronized void watermark(String flow, String value) throws IOException {
        add(JSON.createObjectNode().put("watermark", value).put("flow", flow));
        watermarks.put(flow, value);
    }

    @Override
    public void close() throws IOException {
        lock.release();
        channel.close();
    }
}
