package wirekettle.server.contracts;

import com.fasterxml.jackson.core.type.TypeReference;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import jakarta.transaction.Transactional;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import wirekettle.core.contract.Advice;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.ContractDocument;
import wirekettle.core.contract.ContractReader;
import wirekettle.core.contract.ContractRefused;
import wirekettle.core.contract.GivenDocuments;
import wirekettle.core.contract.ImportProgress;
import wirekettle.core.contract.Operation;
import wirekettle.core.xml.Finding;
import wirekettle.server.web.Json;
import wirekettle.server.web.Problem;

/** Keeps contracts with their revisions and hands them out read; the last ones used stay in memory. */
@ApplicationScoped
public class ContractStore {
    /** How many bytes of documents the contracts kept in memory may have been read from. */
    private static final long MOST_BYTES_IN_MEMORY = 24L << 20;

    private record Key(long id, int revision) {}

    @Inject
    ContractMapper mapper;

    private final Map<Key, Contract> read = new LinkedHashMap<>(16, 0.75f, true);

    /** Keeps a contract under a name not yet taken and returns its id. */
    @Transactional
    public long add(Contract contract, String name, String source, String by) {
        Long id = mapper.add(name, source, by);
        for (int n = 2; id == null; n++) {
            id = mapper.add(name + " " + n, source, by);
        }
        keep(id, 1, contract, source, by);
        return id;
    }

    /** Keeps a contract as the next revision of one there is, and returns its number. */
    @Transactional
    public int revise(long id, int before, Contract contract, String source, String by) {
        int revision = before + 1;
        if (mapper.use(id, revision, source) == 0) {
            throw new Problem(
                    409, "contract-changed", "The contract was refreshed by somebody else meanwhile: compare again.");
        }
        keep(id, revision, contract, source, by);
        return revision;
    }

    private void keep(long id, int revision, Contract contract, String source, String by) {
        mapper.addRevision(
                id,
                revision,
                source,
                Json.write(contract.entries()),
                Json.write(contract.unavailable()),
                Json.write(Counts.of(contract)),
                by);
        List<ContractDocument> documents = contract.documents();
        for (int i = 0; i < documents.size(); i++) {
            ContractDocument document = documents.get(i);
            mapper.keep(document.hash(), document.bytes());
            mapper.addDocument(id, revision, i, document.name(), document.hash());
        }
    }

    /** Returns a contract as it is now. */
    public Contract get(long id) {
        ContractMapper.Row row = mapper.byId(id);
        if (row == null) {
            throw Problem.missing("contract");
        }
        return get(id, row.revision());
    }

    /** Returns a revision of a contract. */
    public Contract get(long id, int revision) {
        Key key = new Key(id, revision);
        synchronized (read) {
            Contract known = read.get(key);
            if (known != null) {
                return known;
            }
        }
        ContractMapper.RevisionRow row = mapper.revision(id, revision);
        List<ContractMapper.DocumentRow> documents = mapper.documents(id, revision);
        if (row == null || documents.isEmpty()) {
            throw Problem.missing("revision of the contract");
        }
        GivenDocuments given = new GivenDocuments();
        documents.forEach(d -> given.add(d.name(), d.bytes()));
        Json.read(row.unavailable(), new TypeReference<Map<String, String>>() {})
                .forEach(given::missing);
        List<String> entries = Json.read(row.entries(), new TypeReference<List<String>>() {});
        try {
            Contract contract = ContractReader.read(
                    entries.isEmpty() ? List.of(documents.get(0).name()) : entries, given, false, ImportProgress.NONE);
            synchronized (read) {
                read.put(key, contract);
                makeRoom(key);
            }
            return contract;
        } catch (ContractRefused e) {
            throw new Problem(500, "contract-unreadable", e.getMessage());
        }
    }

    /** A read contract is many times as large as its documents: those used longest ago make room. */
    private void makeRoom(Key last) {
        long bytes = read.values().stream().mapToLong(ContractStore::size).sum();
        var oldest = read.entrySet().iterator();
        while (bytes > MOST_BYTES_IN_MEMORY && oldest.hasNext()) {
            Map.Entry<Key, Contract> entry = oldest.next();
            if (!entry.getKey().equals(last)) {
                bytes -= size(entry.getValue());
                oldest.remove();
            }
        }
    }

    private static long size(Contract contract) {
        return contract.documents().stream().mapToLong(d -> d.bytes().length).sum();
    }

    /** What a port wants of its callers. */
    public record PortAdvice(String port, String address, List<String> sentences) {}

    /** What lists say of a contract, kept with each revision. */
    public record Counts(int services, int operations, long errors, long warnings, List<PortAdvice> advice) {
        static Counts of(Contract contract) {
            return new Counts(
                    contract.services().size(),
                    contract.operations().size(),
                    count(contract, Finding.Severity.ERROR),
                    count(contract, Finding.Severity.WARNING),
                    contract.services().stream()
                            .flatMap(service -> service.ports().stream())
                            .filter(port -> !port.advice().isEmpty())
                            .map(port -> new PortAdvice(
                                    port.name(),
                                    port.address(),
                                    port.advice().stream().map(Advice::sentence).toList()))
                            .toList());
        }

        private static long count(Contract contract, Finding.Severity severity) {
            return contract.findings().stream()
                    .filter(f -> f.severity() == severity)
                    .count();
        }
    }

    /** Returns what a list says of a revision, without reading its documents where that was done before. */
    public Counts counts(long id, int revision) {
        String known = mapper.revision(id, revision).summary();
        return known == null ? Counts.of(get(id, revision)) : Json.read(known, new TypeReference<Counts>() {});
    }

    /** Returns a contract by name, or null. */
    public Contract byName(String name) {
        ContractMapper.Row row = name == null ? null : mapper.byName(name);
        return row == null ? null : get(row.id(), row.revision());
    }

    /** Returns a revision of a contract by name: the one there is now where none is given; null for no contract. */
    public Contract byName(String name, Integer revision) {
        ContractMapper.Row row = name == null ? null : mapper.byName(name);
        return row == null ? null : get(row.id(), revision == null ? row.revision() : revision);
    }

    /** Returns the revisions contracts of some names have now; those that are not there are left out. */
    public Map<String, Integer> revisions(Collection<String> names) {
        Map<String, Integer> found = new TreeMap<>();
        for (String name : names) {
            ContractMapper.Row row = name == null ? null : mapper.byName(name);
            if (row != null) {
                found.put(name, row.revision());
            }
        }
        return found;
    }

    /** Returns a hash of everything a contract consists of. */
    public String hash(String name) {
        ContractMapper.Row row = mapper.byName(name);
        return row == null
                ? ""
                : String.join(
                        "+",
                        mapper.hashes(row.id(), row.revision()).stream()
                                .map(sha256 -> sha256.substring(0, 12))
                                .toList());
    }

    /** Returns whether an operation reads or changes: as people confirmed it, else as its name suggests. */
    public String effect(String contract, Operation operation) {
        ContractMapper.Row row = mapper.byName(contract);
        return mapper.effects(row.id()).stream()
                .filter(e -> e.operation().equals(operation.key()))
                .map(ContractMapper.EffectRow::effect)
                .findFirst()
                .orElse(operation.proposedEffect().name().toLowerCase(java.util.Locale.ROOT));
    }

    /** Removes a contract. */
    public void remove(long id) {
        mapper.remove(id);
        synchronized (read) {
            read.keySet().removeIf(key -> key.id() == id);
        }
    }
}
