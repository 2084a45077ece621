package wirekettle.demo;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Map;
import java.util.TreeMap;
import wirekettle.connect.CsvLook;
import wirekettle.core.contract.ContractReader;
import wirekettle.core.contract.ContractRefused;
import wirekettle.core.flow.file.DatasetSpec;
import wirekettle.core.flow.file.EndpointSpec;
import wirekettle.core.flow.file.FlowBundle;
import wirekettle.core.flow.file.FlowFile;

/** The demo's finished flow as a bundle: demo/bundle/check-borrowers is what {@link #main} writes. */
public final class DemoBundle {
    private DemoBundle() {}

    /** Returns the bundle, its endpoint at {@code address}. */
    public static FlowBundle checkBorrowers(String address) throws IOException {
        Path loans = Files.createTempFile("loans", ".csv");
        try {
            Files.write(loans, DemoWorld.resource("data/loans.csv"));
            CsvLook.Seen seen = CsvLook.look(loans, CsvLook.shape(loans));
            Map<String, DatasetSpec> datasets = new TreeMap<>();
            datasets.put(
                    "loans",
                    new DatasetSpec(
                            "loans", DatasetSpec.Kind.CSV, "loans.csv", seen.shape(), null, null, null, seen.layout()));
            datasets.put(
                    "borrowers",
                    new DatasetSpec(
                            "borrowers",
                            DatasetSpec.Kind.CSV,
                            "borrowers.csv",
                            DatasetSpec.CsvShape.DEFAULT,
                            null,
                            null,
                            null,
                            null));
            return new FlowBundle(
                    FlowFile.parse(
                            new String(DemoWorld.resource("flows/check-borrowers.json"), StandardCharsets.UTF_8)),
                    Map.of("Institution Register", ContractReader.read(DemoWorld.registerDocuments(), true)),
                    datasets,
                    Map.of("Institution Register", new EndpointSpec("Institution Register", address)),
                    Map.of(),
                    Map.of());
        } catch (ContractRefused e) {
            throw new IOException("the demo's own contract is refused: " + e.getMessage(), e);
        } finally {
            Files.deleteIfExists(loans);
        }
    }

    /** Writes the bundle as a folder, with its data file. */
    public static void write(Path folder) throws IOException {
        for (Map.Entry<String, byte[]> file :
                checkBorrowers("http://127.0.0.1:8790/register").files().entrySet()) {
            Path path = folder.resolve(file.getKey());
            Files.createDirectories(path.getParent());
            Files.write(path, file.getValue());
        }
        Files.write(folder.resolve("loans.csv"), DemoWorld.resource("data/loans.csv"));
    }

    /** Writes the bundle to the folder named. */
    public static void main(String[] args) throws IOException {
        write(Path.of(args[0]));
    }
}
