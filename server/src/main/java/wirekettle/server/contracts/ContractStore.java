package wirekettle.server.contracts;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import jakarta.transaction.Transactional;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.ContractDocument;
import wirekettle.core.contract.ContractReader;
import wirekettle.core.contract.ContractRefused;
import wirekettle.core.contract.GivenDocuments;
import wirekettle.core.contract.ImportProgress;
import wirekettle.core.contract.Operation;
import wirekettle.server.web.Problem;

/** Keeps contracts and hands them out read; the last ones used stay in memory. */
@ApplicationScoped
public class ContractStore {
    private static final int KEPT_IN_MEMORY = 16;

    @Inject
    ContractMapper mapper;

    private final Map<Long, Contract> read = new LinkedHashMap<>(16, 0.75f, true) {
        @Override
        protected boolean removeEldestEntry(Map.Entry<Long, Contract> eldest) {
            return size() > KEPT_IN_MEMORY;
        }
    };

    /** Keeps a contract under a name not yet taken and returns its id. */
    @Transactional
    public long add(Contract contract, String name, String source) {
        String free = name;
        for (int n = 2; mapper.byName(free) != null; n++) {
            free = name + " " + n;
        }
        long id = mapper.add(free, source);
        List<ContractDocument> documents = contract.documents();
        for (int i = 0; i < documents.size(); i++) {
            ContractDocument document = documents.get(i);
            mapper.keep(document.hash(), document.bytes());
            mapper.addDocument(id, i, document.name(), document.hash());
        }
        return id;
    }

    /** Returns a contract by id. */
    public Contract get(long id) {
        synchronized (read) {
            Contract known = read.get(id);
            if (known != null) {
                return known;
            }
        }
        List<ContractMapper.DocumentRow> documents = mapper.documents(id);
        if (documents.isEmpty()) {
            throw Problem.missing("contract");
        }
        GivenDocuments given = new GivenDocuments();
        documents.forEach(d -> given.add(d.name(), d.bytes()));
        try {
            Contract contract =
                    ContractReader.read(List.of(documents.get(0).name()), given, false, ImportProgress.NONE);
            synchronized (read) {
                read.put(id, contract);
            }
            return contract;
        } catch (ContractRefused e) {
            throw new Problem(500, "contract-unreadable", e.getMessage());
        }
    }

    /** Returns a contract by name, or null. */
    public Contract byName(String name) {
        ContractMapper.Row row = name == null ? null : mapper.byName(name);
        return row == null ? null : get(row.id());
    }

    /** Returns a hash of everything a contract consists of. */
    public String hash(String name) {
        ContractMapper.Row row = mapper.byName(name);
        return row == null
                ? ""
                : String.join(
                        "+",
                        mapper.documents(row.id()).stream()
                                .map(d -> d.sha256().substring(0, 12))
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
            read.remove(id);
        }
    }
}
