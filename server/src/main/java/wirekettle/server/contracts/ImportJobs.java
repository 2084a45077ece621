package wirekettle.server.contracts;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.io.IOException;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CancellationException;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.atomic.AtomicLong;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.connect.HostRefused;
import wirekettle.connect.WebDocuments;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.ContractReader;
import wirekettle.core.contract.ContractRefused;
import wirekettle.core.contract.DocumentSource;
import wirekettle.core.contract.GivenDocuments;
import wirekettle.core.xml.Finding;
import wirekettle.server.settings.Hosts;

/** Imports going on: each says how far it is, can be cancelled, and stores nothing unless it succeeds. */
@ApplicationScoped
public class ImportJobs {
    /**
     * Where an import stands.
     *
     * @param id the job's id
     * @param state reading, done, refused, host-refused, cancelled
     * @param document the document now read
     * @param documents how many are done
     * @param contract the contract's id once done
     * @param message why it was refused
     * @param host the host to allow, when one was refused
     * @param findings everything found
     */
    @Schema(
            name = "ImportJob",
            requiredProperties = {"id", "state", "document", "documents", "findings"})
    public record Job(
            long id,
            String state,
            String document,
            int documents,
            Long contract,
            String message,
            String host,
            List<Finding> findings) {
        Job at(String now, int done) {
            return new Job(id, state, now, done, null, null, null, List.of());
        }

        Job ended(String how, String why, String blocked, List<Finding> found) {
            return new Job(id, how, document, documents, null, why, blocked, found);
        }
    }

    private static final int KEPT = 200;

    @Inject
    ContractStore store;

    @Inject
    Hosts hosts;

    private final ExecutorService threads = Executors.newFixedThreadPool(2, task -> {
        Thread thread = new Thread(task, "contract-import");
        thread.setDaemon(true);
        return thread;
    });
    private final AtomicLong ids = new AtomicLong();
    private final Map<Long, Job> jobs = new ConcurrentHashMap<>();
    private final java.util.Set<Long> cancelled = ConcurrentHashMap.newKeySet();

    /** Starts importing documents given together. */
    public Job given(GivenDocuments documents, String source) {
        return start(source, () -> ContractReader.read(documents, false));
    }

    /** Starts importing from an address. */
    public Job address(String address) {
        long id = ids.incrementAndGet();
        String[] blocked = {null};
        DocumentSource web = new WebDocuments(hosts, false);
        DocumentSource noting = name -> {
            try {
                return web.load(name);
            } catch (HostRefused e) {
                blocked[0] = e.host();
                throw e;
            }
        };
        return start(
                id,
                address,
                blocked,
                () -> ContractReader.read(List.of(address), noting, false, (name, done) -> {
                    if (cancelled.contains(id)) {
                        throw new CancellationException();
                    }
                    jobs.computeIfPresent(id, (k, job) -> job.at(name, done));
                }));
    }

    private interface Reading {
        Contract read() throws ContractRefused, IOException;
    }

    private Job start(String source, Reading reading) {
        return start(ids.incrementAndGet(), source, new String[1], reading);
    }

    private Job start(long id, String source, String[] blocked, Reading reading) {
        jobs.remove(id - KEPT);
        Job job = new Job(id, "reading", source, 0, null, null, null, List.of());
        jobs.put(id, job);
        threads.execute(() -> work(id, source, blocked, reading));
        return job;
    }

    private void work(long id, String source, String[] blocked, Reading reading) {
        try {
            Contract contract = reading.read();
            if (cancelled.remove(id)) {
                throw new CancellationException();
            }
            long stored = store.add(contract, spaced(contract.name()), source);
            jobs.computeIfPresent(
                    id,
                    (k, job) -> new Job(
                            id,
                            "done",
                            job.document(),
                            contract.documents().size(),
                            stored,
                            null,
                            blocked[0],
                            contract.findings()));
        } catch (CancellationException e) {
            jobs.computeIfPresent(id, (k, job) -> job.ended("cancelled", "The import was cancelled.", null, List.of()));
        } catch (ContractRefused e) {
            String state = blocked[0] == null ? "refused" : "host-refused";
            jobs.computeIfPresent(id, (k, job) -> job.ended(state, e.getMessage(), blocked[0], e.findings()));
        } catch (IOException | RuntimeException | OutOfMemoryError | StackOverflowError e) {
            String why = "The import failed: " + e.getMessage();
            jobs.computeIfPresent(id, (k, job) -> job.ended("refused", why, null, List.of()));
        }
    }

    private static String spaced(String name) {
        return name.replaceAll("(?<=[a-z])(?=[A-Z])", " ");
    }

    /** Returns where an import stands, or null. */
    public Job get(long id) {
        return jobs.get(id);
    }

    /** Asks an import to end. */
    public void cancel(long id) {
        cancelled.add(id);
    }
}
