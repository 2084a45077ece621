package wirekettle.cli;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import wirekettle.connect.HostRule;
import wirekettle.connect.WebDocuments;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.ContractReader;
import wirekettle.core.contract.ContractRefused;
import wirekettle.core.contract.GivenDocuments;
import wirekettle.core.contract.ImportProgress;
import wirekettle.core.flow.file.FlowBundle;

/** Reads a contract named on the command line: a file, a zip, or an address. */
final class Contracts {
    private Contracts() {}

    static Contract read(String from, boolean strict) throws IOException, ContractRefused {
        if (from.toLowerCase(java.util.Locale.ROOT).endsWith(".zip") && !from.contains("://")) {
            GivenDocuments given = new GivenDocuments();
            FlowBundle.unzip(Files.newInputStream(Path.of(from))).forEach(given::add);
            return ContractReader.read(given, strict);
        }
        return ContractReader.read(List.of(from), new WebDocuments(HostRule.ANY, true), strict, ImportProgress.NONE);
    }
}
