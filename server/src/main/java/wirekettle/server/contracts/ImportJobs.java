package wirekettle.server.contracts;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.io.IOException;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CancellationException;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.atomic.AtomicLong;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import org.jboss.logging.Logger;
import wirekettle.connect.CertificateUnknown;
import wirekettle.connect.HostRefused;
import wirekettle.connect.LoginWanted;
import wirekettle.connect.WebAccess;
import wirekettle.connect.WebDocuments;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.ContractReader;
import wirekettle.core.contract.ContractRefused;
import wirekettle.core.contract.DocumentSource;
import wirekettle.core.contract.GivenDocuments;
import wirekettle.core.contract.ImportProgress;
import wirekettle.core.soap.MemoryBudget;
import wirekettle.core.xml.Finding;
import wirekettle.server.hosts.Hosts;

/**
 * Imports going on: each says how far it is, can be cancelled, and stores nothing unless it succeeds. One that
 * refreshes a contract stores nothing by itself either: what it read waits until it is taken in.
 */
@ApplicationScoped
public class ImportJobs {
    /**
     * What stands between an import and a document, and can be solved within the import.
     *
     * @param kind host, login, proxy-login or certificate
     * @param host who is in the way, as host:port
     * @param message what is wrong
     * @param fingerprint the SHA-256 of the certificate, for one that is not trusted
     * @param subject whom the certificate names
     * @param issuer who signed it
     * @param validUntil until when it is valid
     */
    @Schema(
            name = "ImportObstacle",
            requiredProperties = {"kind", "host", "message"})
    public record Obstacle(
            String kind,
            String host,
            String message,
            String fingerprint,
            String subject,
            String issuer,
            Instant validUntil) {
        static Obstacle of(IOException e) {
            if (e instanceof HostRefused refused) {
                return new Obstacle("host", refused.host(), e.getMessage(), null, null, null, null);
            }
            if (e instanceof LoginWanted login) {
                String kind = login.proxy() ? "proxy-login" : "login";
                return new Obstacle(kind, login.host(), e.getMessage(), null, null, null, null);
            }
            return e instanceof CertificateUnknown unknown
                    ? new Obstacle(
                            "certificate",
                            unknown.host(),
                            e.getMessage(),
                            unknown.fingerprint(),
                            unknown.subject(),
                            unknown.issuer(),
                            unknown.validUntil())
                    : null;
        }
    }

    /**
     * Where an import stands.
     *
     * @param id the job's id
     * @param state reading, done, refused, cancelled
     * @param document the document now read
     * @param documents how many are done
     * @param contract the contract's id once done; for a refresh from the start
     * @param refresh whether it refreshes that contract instead of adding one
     * @param message why it was refused
     * @param obstacle what can be solved so that it can go on, when there is such a thing
     * @param findings everything found
     */
    @Schema(
            name = "ImportJob",
            requiredProperties = {"id", "state", "document", "documents", "refresh", "findings"})
    public record Job(
            long id,
            String state,
            String document,
            int documents,
            Long contract,
            boolean refresh,
            String message,
            Obstacle obstacle,
            List<Finding> findings) {
        Job at(String now, int done) {
            return new Job(id, state, now, done, contract, refresh, null, null, List.of());
        }

        Job ended(String how, String why, Obstacle blocked, List<Finding> found) {
            return new Job(id, how, document, documents, contract, refresh, why, blocked, found);
        }
    }

    /** What a job is for. */
    public record Purpose(Long refreshes, String by, boolean strict) {}

    private static final Logger LOG = Logger.getLogger(ImportJobs.class);

    /** A document is read into a tree and a contract: so many times its size. */
    private static final int TIMES = 8;

    private static final long ROOM_SECONDS = 600;
    private static final int KEPT = 200;
    private static final int CONTRACTS_WAITING = 3;

    @Inject
    ContractStore store;

    @Inject
    Hosts hosts;

    @Inject
    MemoryBudget memory;

    private final ExecutorService threads = Executors.newFixedThreadPool(4, task -> {
        Thread thread = new Thread(task, "contract-import");
        thread.setDaemon(true);
        return thread;
    });
    private final AtomicLong ids = new AtomicLong();
    private final Map<Long, Job> jobs = new ConcurrentHashMap<>();
    private final java.util.Set<Long> cancelled = ConcurrentHashMap.newKeySet();
    private final Map<Long, Waiting> waiting = java.util.Collections.synchronizedMap(new LinkedHashMap<>() {
        @Override
        protected boolean removeEldestEntry(Map.Entry<Long, Waiting> eldest) {
            return size() > CONTRACTS_WAITING;
        }
    });

    /**
     * A refreshed contract that waits to be taken in.
     *
     * @param contract the contract it is a new revision of
     * @param read what was read
     * @param source where it was read from
     */
    public record Waiting(long contract, Contract read, String source) {}

    private interface Reading {
        Contract read(MemoryBudget.Share share, ImportProgress progress) throws ContractRefused, IOException;
    }

    /** Documents that ask for room before they are read into a contract. */
    private static DocumentSource roomy(DocumentSource source, MemoryBudget.Share share) {
        long until = System.nanoTime() + ROOM_SECONDS * 1_000_000_000L;
        return new DocumentSource() {
            @Override
            public byte[] load(String name) throws IOException {
                byte[] bytes = source.load(name);
                try {
                    share.grow((long) bytes.length * TIMES, until);
                } catch (MemoryBudget.Full e) {
                    throw new IOException(e.getMessage(), e);
                } catch (InterruptedException e) {
                    Thread.currentThread().interrupt();
                    throw new CancellationException();
                }
                return bytes;
            }

            @Override
            public String schemaOf(String namespace) {
                return source.schemaOf(namespace);
            }
        };
    }

    /** Starts importing documents given together. */
    public Job given(GivenDocuments documents, String source, Purpose purpose) {
        return start(source, purpose, new Obstacle[1], (share, progress) -> {
            for (String name : documents.files().keySet()) {
                roomy(documents, share).load(name);
            }
            return ContractReader.read(documents, purpose.strict(), progress);
        });
    }

    /** Starts importing from an address. */
    public Job address(String address, WebAccess access, Purpose purpose) {
        Obstacle[] blocked = {null};
        DocumentSource web = new WebDocuments(hosts, false, access);
        DocumentSource noting = name -> {
            try {
                return web.load(name);
            } catch (IOException e) {
                blocked[0] = blocked[0] == null ? Obstacle.of(e) : blocked[0];
                throw e;
            }
        };
        return start(
                address,
                purpose,
                blocked,
                (share, progress) ->
                        ContractReader.read(List.of(address), roomy(noting, share), purpose.strict(), progress));
    }

    private Job start(String source, Purpose purpose, Obstacle[] blocked, Reading reading) {
        long id = ids.incrementAndGet();
        jobs.remove(id - KEPT);
        Job job = new Job(
                id, "reading", source, 0, purpose.refreshes(), purpose.refreshes() != null, null, null, List.of());
        jobs.put(id, job);
        threads.execute(() -> work(job, source, purpose, blocked, reading));
        return job;
    }

    private void work(Job started, String source, Purpose purpose, Obstacle[] blocked, Reading reading) {
        long id = started.id();
        try (MemoryBudget.Share share = memory.share()) {
            Contract contract = reading.read(share, (name, done) -> {
                if (cancelled.contains(id)) {
                    throw new CancellationException();
                }
                jobs.computeIfPresent(id, (k, job) -> job.at(name, done));
            });
            if (cancelled.remove(id)) {
                throw new CancellationException();
            }
            Long stored = purpose.refreshes();
            if (stored == null) {
                stored = store.add(contract, spaced(contract.name()), source, purpose.by());
            } else {
                waiting.put(id, new Waiting(stored, contract, source));
            }
            Job done = new Job(
                    id,
                    "done",
                    started.document(),
                    contract.documents().size(),
                    stored,
                    started.refresh(),
                    null,
                    blocked[0],
                    contract.findings());
            jobs.put(id, done);
        } catch (CancellationException e) {
            end(id, "cancelled", "The import was cancelled.", null, List.of());
        } catch (ContractRefused e) {
            end(id, "refused", e.getMessage(), blocked[0], e.findings());
        } catch (IOException e) {
            end(id, "refused", "The import failed: " + e.getMessage(), null, List.of());
        } catch (RuntimeException | StackOverflowError e) {
            LOG.error("an import failed", e);
            end(id, "refused", "The import failed in this server; why is in its log.", null, List.of());
        }
    }

    private void end(long id, String how, String why, Obstacle blocked, List<Finding> found) {
        jobs.computeIfPresent(id, (k, job) -> job.ended(how, why, blocked, found));
    }

    private static String spaced(String name) {
        return name.replaceAll("(?<=[a-z])(?=[A-Z])", " ");
    }

    /** Returns where an import stands, or null. */
    public Job get(long id) {
        return jobs.get(id);
    }

    /** Returns the refreshed contract a job has read, or null when it was taken in, is too old, or never was. */
    public Waiting waiting(long id) {
        return waiting.get(id);
    }

    /** Forgets a refreshed contract. */
    public void forget(long id) {
        waiting.remove(id);
    }

    /** Asks an import to end. */
    public void cancel(long id) {
        cancelled.add(id);
    }
}
