package wirekettle.server.contracts;

import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.function.UnaryOperator;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.ContractReader;
import wirekettle.core.contract.GivenDocuments;
import wirekettle.core.contract.ImportProgress;
import wirekettle.demo.DemoWorld;
import wirekettle.server.Database;

/** Contracts of the demo world, and stores of them, for tests. */
public final class Contracts {
    private Contracts() {}

    /** Returns a store over a database; another over the same one is a server that starts again. */
    public static ContractStore over(Database database) {
        ContractStore store = new ContractStore();
        store.mapper = database.mapper(ContractMapper.class);
        return store;
    }

    /** Returns the Institution Register, its documents changed. */
    public static Contract register(UnaryOperator<String> change) throws Exception {
        GivenDocuments given = new GivenDocuments();
        DemoWorld.registerDocuments()
                .files()
                .forEach((name, bytes) -> given.add(
                        name,
                        change.apply(new String(bytes, StandardCharsets.UTF_8)).getBytes(StandardCharsets.UTF_8)));
        return ContractReader.read(List.of("InstitutionRegister.wsdl"), given, false, ImportProgress.NONE);
    }
}
