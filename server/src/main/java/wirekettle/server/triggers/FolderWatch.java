package wirekettle.server.triggers;

import io.quarkus.runtime.ShutdownEvent;
import io.quarkus.runtime.StartupEvent;
import jakarta.annotation.Priority;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.Observes;
import jakarta.inject.Inject;
import java.io.IOException;
import java.io.InputStream;
import java.nio.file.DirectoryStream;
import java.nio.file.FileSystems;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.nio.file.PathMatcher;
import java.nio.file.StandardCopyOption;
import java.security.DigestInputStream;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.Duration;
import java.time.Instant;
import java.util.HexFormat;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import org.jboss.logging.Logger;
import wirekettle.server.datasets.DatasetMapper;
import wirekettle.server.datasets.DatasetStore;
import wirekettle.server.ledger.RunMapper;
import wirekettle.server.runs.RunEnded;

/**
 * Looks into the folders that triggers watch. A complete file is moved to {@code working}, read from a copy of the
 * server's own, and moved to {@code done} or {@code failed} when its run has ended. Moving is what takes it: of several
 * servers one succeeds.
 */
@ApplicationScoped
class FolderWatch {
    private static final Logger LOG = Logger.getLogger(FolderWatch.class);
    private static final int LAST = 9_600;
    private static final long LOOK_SECONDS = 1;
    private static final int REST_SECONDS = 10;
    private static final Duration LEFT = Duration.ofMinutes(1);
    private static final String WORKING = "working";
    private static final Set<String> STAYS = Set.of("paused", "interrupted");

    @Inject
    TriggerMapper mapper;

    @Inject
    Triggers triggers;

    @Inject
    DatasetMapper datasets;

    @Inject
    DatasetStore store;

    @Inject
    RunMapper runs;

    /** What was last seen of a file, and since when it has been so. */
    private record Seen(long size, Instant changed, Instant since) {}

    private final Map<Path, Seen> seen = new ConcurrentHashMap<>();
    private final Map<Long, String> told = new ConcurrentHashMap<>();
    private final ScheduledExecutorService thread = Executors.newSingleThreadScheduledExecutor(task -> {
        Thread its = new Thread(task, "folder-watch");
        its.setDaemon(true);
        return its;
    });

    void begin(@Observes @Priority(LAST) StartupEvent start) {
        thread.scheduleWithFixedDelay(this::look, LOOK_SECONDS, LOOK_SECONDS, TimeUnit.SECONDS);
    }

    void end(@Observes ShutdownEvent stop) {
        thread.shutdownNow();
    }

    private void look() {
        try {
            for (TriggerMapper.Row trigger : mapper.active("file")) {
                look(trigger);
            }
        } catch (RuntimeException e) {
            LOG.debugf("folders are looked at again in a moment: %s", e.getMessage());
        }
    }

    private void look(TriggerMapper.Row trigger) {
        try {
            TriggerSpec spec = Triggers.spec(trigger);
            Path folder = folder(spec);
            putBack(trigger, folder);
            String trouble = null;
            try (DirectoryStream<Path> files = Files.newDirectoryStream(folder)) {
                for (Path file : files) {
                    if (Files.isRegularFile(file) && wanted(file, spec) && complete(file, spec)) {
                        String its = take(trigger, spec, file);
                        trouble = its == null ? trouble : its;
                    }
                }
            }
            if (trouble == null) {
                told.remove(trigger.id());
            } else {
                tell(trigger, trouble);
            }
        } catch (IOException | RuntimeException e) {
            tell(
                    trigger,
                    e instanceof NoSuchFileException ? "the folder is not there: " + e.getMessage() : e.getMessage());
        }
    }

    /** A folder or file that cannot be used is told once, not at every look. */
    private void tell(TriggerMapper.Row trigger, String why) {
        String message = String.valueOf(why);
        if (!message.equals(told.put(trigger.id(), message))) {
            triggers.refuse(trigger, message);
        }
    }

    /** Returns the folder a trigger watches. */
    Path folder(TriggerSpec spec) throws IOException {
        DatasetMapper.Row row = spec.folder() == null ? null : datasets.byName(spec.folder());
        if (row == null || !DatasetStore.folder(DatasetStore.spec(row))) {
            throw new IOException("there is no folder “" + spec.folder() + "” among the datasets");
        }
        return store.file(DatasetStore.spec(row));
    }

    private static boolean wanted(Path file, TriggerSpec spec) {
        String name = file.getFileName().toString();
        boolean marks = spec.marker() != null && !spec.marker().isBlank() && name.endsWith(spec.marker());
        if (name.startsWith(".") || marks) {
            return false;
        }
        PathMatcher matcher = spec.pattern() == null || spec.pattern().isBlank()
                ? path -> true
                : FileSystems.getDefault().getPathMatcher("glob:" + spec.pattern());
        return matcher.matches(file.getFileName());
    }

    /** A file is complete when its marker is there, or size and time have not changed for a while. */
    private boolean complete(Path file, TriggerSpec spec) throws IOException {
        if (spec.marker() != null && !spec.marker().isBlank()) {
            return Files.exists(file.resolveSibling(file.getFileName() + spec.marker()));
        }
        long size = Files.size(file);
        Instant changed = Files.getLastModifiedTime(file).toInstant();
        Instant now = Instant.now();
        Seen before = seen.get(file);
        if (before == null || before.size() != size || !before.changed().equals(changed)) {
            seen.put(file, new Seen(size, changed, now));
            return false;
        }
        int rest = spec.restSeconds() == null ? REST_SECONDS : spec.restSeconds();
        return !now.isBefore(before.since().plusSeconds(rest));
    }

    /** Takes a file; returns why it cannot, null when it did or waits for its turn. */
    private String take(TriggerMapper.Row trigger, TriggerSpec spec, Path file) throws IOException {
        if (!Files.isReadable(file)) {
            return file.getFileName() + " cannot be read: this server has no right to";
        }
        boolean alone = spec.overlapping() != TriggerSpec.Overlap.BESIDE;
        if (alone && mapper.going(trigger.flowId(), trigger.environment())) {
            return null; // it waits where it is
        }
        Path working = Files.createDirectories(file.resolveSibling(WORKING)).resolve(file.getFileName());
        try {
            Files.move(file, working, StandardCopyOption.ATOMIC_MOVE);
        } catch (NoSuchFileException e) {
            return null; // another server took it, or it is gone
        }
        seen.remove(file);
        if (spec.marker() != null && !spec.marker().isBlank()) {
            Files.deleteIfExists(file.resolveSibling(file.getFileName() + spec.marker()));
        }
        String name = file.getFileName().toString();
        String content;
        try {
            content = hash(working);
        } catch (IOException e) {
            put(working, "failed");
            return name + " cannot be read, and was moved to “failed”: " + e.getMessage();
        }
        if (mapper.take(trigger.id(), content, name) == 0) {
            TriggerMapper.Taken before = mapper.taken(trigger.id(), content);
            if (!Boolean.TRUE.equals(spec.again())) {
                put(working, "same");
                mapper.event(
                        trigger.id(),
                        "same-content",
                        name + " has the content of " + before.name() + " of " + before.at()
                                + ": it was moved to “same”",
                        before.run());
                return null;
            }
            mapper.takeAgain(trigger.id(), content, name);
        }
        start(trigger, working, content);
        return null;
    }

    private void start(TriggerMapper.Row trigger, Path working, String content) throws IOException {
        Path copy = Files.createDirectories(store.data()
                        .resolve("runs")
                        .resolve("files")
                        .resolve(trigger.id() + "-" + System.currentTimeMillis()))
                .resolve(working.getFileName());
        Files.copy(working, copy);
        Long run = triggers.start(trigger, copy, false);
        if (run == null) {
            mapper.forget(trigger.id(), content);
            put(working, "failed");
            forgetCopy(copy);
        } else {
            mapper.began(trigger.id(), content, run);
            // one that ended before this was known
            String state = runs.byId(run).state();
            if (!state.equals("running")) {
                ended(new RunEnded(run, state));
            }
        }
    }

    /** A server that ended between taking a file and starting its run left it in {@code working}: it comes again. */
    private void putBack(TriggerMapper.Row trigger, Path folder) throws IOException {
        Path working = folder.resolve(WORKING);
        if (!Files.isDirectory(working)) {
            return;
        }
        try (DirectoryStream<Path> files = Files.newDirectoryStream(working)) {
            for (Path file : files) {
                Instant now = Instant.now();
                Seen before = seen.putIfAbsent(file, new Seen(Files.size(file), now, now));
                if (before != null && before.since().plus(LEFT).isBefore(now)) {
                    TriggerMapper.Taken taken = taken(trigger, file);
                    if (taken == null || taken.run() == null) {
                        if (taken != null) {
                            mapper.forget(trigger.id(), taken.sha256());
                        }
                        Files.move(file, folder.resolve(file.getFileName()));
                    }
                    seen.remove(file);
                }
            }
        }
    }

    /** One that can no longer be read is not known: it comes again, and goes to {@code failed} then. */
    private TriggerMapper.Taken taken(TriggerMapper.Row trigger, Path file) {
        try {
            return mapper.taken(trigger.id(), hash(file));
        } catch (IOException e) {
            return null;
        }
    }

    private static String hash(Path file) throws IOException {
        try (InputStream in = Files.newInputStream(file)) {
            MessageDigest digest = MessageDigest.getInstance("SHA-256");
            try (DigestInputStream read = new DigestInputStream(in, digest)) {
                read.transferTo(java.io.OutputStream.nullOutputStream());
            }
            return HexFormat.of().formatHex(digest.digest());
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException(e);
        }
    }

    /** Moves a file to a folder beside; one of its name is not written over. */
    private static void put(Path file, String where) throws IOException {
        Path folder = Files.createDirectories(file.getParent().resolveSibling(where));
        String name = file.getFileName().toString();
        Path target = folder.resolve(name);
        int dot = name.lastIndexOf('.');
        for (int i = 2; Files.exists(target); i++) {
            target = folder.resolve(dot > 0 ? name.substring(0, dot) + "-" + i + name.substring(dot) : name + "-" + i);
        }
        Files.move(file, target);
    }

    /** The copy a run read from is of no use once nothing of it can be sent again. */
    private static void forgetCopy(Path copy) throws IOException {
        Files.deleteIfExists(copy);
        Files.deleteIfExists(copy.getParent());
    }

    void ended(@Observes RunEnded end) {
        TriggerMapper.Taken taken = STAYS.contains(end.state()) ? null : mapper.ofRun(end.run());
        if (taken == null) {
            return;
        }
        TriggerMapper.Row trigger = mapper.byId(taken.trigger());
        try {
            Path working = folder(Triggers.spec(trigger)).resolve(WORKING).resolve(taken.name());
            if (Files.exists(working)) {
                put(working, end.state().equals("done") ? "done" : "failed");
                seen.remove(working);
            }
            RunMapper.Row run = runs.byId(end.run());
            if (run.state().equals("done") && run.rejected() + run.inDoubt() + run.heldBack() == 0) {
                forgetCopy(Path.of(run.file()));
            }
        } catch (IOException e) {
            tell(trigger, taken.name() + " could not be moved away: " + e.getMessage());
        }
    }
}
