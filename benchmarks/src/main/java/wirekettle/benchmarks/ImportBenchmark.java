package wirekettle.benchmarks;

import java.io.ByteArrayInputStream;
import java.util.Locale;
import javax.xml.parsers.DocumentBuilderFactory;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.ContractReader;
import wirekettle.core.contract.GivenDocuments;
import wirekettle.demo.LargeContract;

/** Importing a contract of 10,000 types in 30 files, against parsing the same bytes into a DOM. */
public final class ImportBenchmark {
    private static final int FILES = 30;
    private static final int TYPES = 10_000;

    private ImportBenchmark() {}

    /** Runs the benchmark. */
    public static void main(String[] args) throws Exception {
        GivenDocuments given = LargeContract.documents(TYPES, FILES, 6);
        long bytes = given.files().values().stream().mapToLong(b -> b.length).sum();
        DocumentBuilderFactory factory = DocumentBuilderFactory.newDefaultInstance();
        factory.setNamespaceAware(true);
        int[] types = {0};
        double[] seconds = Ratio.medians(
                () -> {
                    Contract contract = ContractReader.read(given, true);
                    types[0] = contract.schemas().typeCount();
                },
                () -> {
                    for (byte[] document : given.files().values()) {
                        factory.newDocumentBuilder().parse(new ByteArrayInputStream(document));
                    }
                },
                5,
                args.length > 0 ? 41 : 15);
        System.out.printf(
                Locale.ROOT,
                "import of %d types, %d files, %.1f MB: %.0f ms; DOM parse of the same bytes: %.0f ms%n",
                types[0],
                given.files().size(),
                bytes / 1e6,
                seconds[0] * 1000,
                seconds[1] * 1000);
        System.exit(Ratio.atMost(seconds[0] / seconds[1], 4));
    }
}
