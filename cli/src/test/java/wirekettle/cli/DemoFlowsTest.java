package wirekettle.cli;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.connect.CsvLook;
import wirekettle.core.contract.ContractReader;
import wirekettle.core.flow.file.DatasetSpec;
import wirekettle.core.flow.file.EndpointSpec;
import wirekettle.core.flow.file.FlowBundle;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.WriteStage;
import wirekettle.core.soap.EndpointSettings;
import wirekettle.core.value.Series;
import wirekettle.demo.DemoLogins;
import wirekettle.demo.DemoWorld;

/** The demo's flows from the command line: the same ends as in the server. */
public class DemoFlowsTest {
    private static final Series PAPERS = new Series("transport papers", true, 1, "HC-{year}-{number:4}", true, null);

    private static FlowBundle bundle(String flow, DemoWorld world) throws Exception {
        FlowFile file = FlowFile.parse(new String(DemoWorld.resource("flows/" + flow), StandardCharsets.UTF_8));
        Path loans = Files.createTempFile("loans", ".csv");
        Files.write(loans, DemoWorld.resource("data/loans.csv"));
        CsvLook.Seen seen = CsvLook.look(loans, CsvLook.shape(loans));
        Map<String, DatasetSpec> datasets = new TreeMap<>();
        datasets.put(
                "loans",
                new DatasetSpec(
                        "loans", DatasetSpec.Kind.CSV, "loans.csv", seen.shape(), null, null, null, seen.layout()));
        for (WriteStage write : file.all(WriteStage.class)) {
            datasets.put(
                    write.dataset(),
                    new DatasetSpec(
                            write.dataset(),
                            DatasetSpec.Kind.CSV,
                            write.dataset() + ".csv",
                            DatasetSpec.CsvShape.DEFAULT,
                            null,
                            null,
                            null,
                            null));
        }
        EndpointSettings session = new ObjectMapper().convertValue(DemoLogins.session(), EndpointSettings.class);
        return new FlowBundle(
                file,
                Map.of(
                        "Vanline Desk", ContractReader.read(DemoWorld.vanlineDocuments(), true),
                        "Loan Clearance", ContractReader.read(DemoWorld.clearanceDocuments(), true)),
                datasets,
                Map.of(
                        "Vanline Desk in a session",
                        new EndpointSpec(
                                "Vanline Desk in a session", world.ports().address("vanline-session"), null, session),
                        "Loan Clearance",
                        new EndpointSpec("Loan Clearance", world.address("clearance"))),
                Map.of(),
                Map.of("transport papers", PAPERS));
    }

    @DataProvider
    public Object[][] flows() {
        return new Object[][] {
            {"clear-papers.json", 97, 8, 2, 2, List.of("papers cleared", "papers refused"), 0},
            {"book-whole-way.json", 100, 4, 2, 3, List.of("loans booked by crate", "loans not booked"), 1},
        };
    }

    @Test(dataProvider = "flows")
    public void aFlowComesToTheSameEndsAsInTheServer(
            String flow, int done, int rejected, int leftOut, int inDoubt, List<String> targets, int sessions)
            throws Exception {
        try (DemoWorld world = new DemoWorld(0)) {
            Path home = Files.createTempDirectory("flow");
            Path zip = home.resolve("flow.zip");
            Files.write(zip, bundle(flow, world).zip());
            Path secrets = Files.createDirectory(home.resolve("secrets"));
            Files.writeString(secrets.resolve("vanline password"), DemoLogins.TOKEN_PASSWORD);
            Path loans = home.resolve("loans.csv");
            Files.write(loans, DemoWorld.resource("data/loans.csv"));
            List<String> arguments = new ArrayList<>(List.of(
                    "run", zip.toString(), "--json", "--in", "loans=" + loans, "--secrets", secrets.toString()));
            arguments.addAll(List.of("--state", home.resolve("state").toString()));
            for (String target : targets) {
                arguments.add("--out");
                arguments.add(target + "=" + home.resolve(target + ".csv"));
            }
            Path out = home.resolve("out.json");
            PrintStream before = System.out;
            int exit;
            try (PrintStream to = new PrintStream(out.toFile(), StandardCharsets.UTF_8)) {
                System.setOut(to);
                exit = Kettle.run(arguments.toArray(String[]::new));
            } finally {
                System.setOut(before);
            }
            JsonNode said = new ObjectMapper().readTree(out.toFile());
            assertEquals(exit, 1, said.toString());
            assertEquals(said.get("done").asInt(), done, said.toString());
            assertEquals(said.get("rejected").asInt(), rejected, said.toString());
            assertEquals(said.get("left-out").asInt(), leftOut, said.toString());
            assertEquals(said.get("in-doubt").asInt(), inDoubt, said.toString());
            assertEquals(
                    Files.readAllLines(home.resolve(targets.get(0) + ".csv")).size(), done + 1);
            if (flow.equals("book-whole-way.json")) {
                List<String> papers = Files.readAllLines(home.resolve(targets.get(0) + ".csv")).stream()
                        .skip(1)
                        .map(row -> row.split(",")[1].replaceFirst("HC-\\d{4}-", ""))
                        .sorted()
                        .toList();
                assertEquals(papers.get(0), "0001");
                assertEquals(papers.get(done - 1), "0100", "no number is missing");
            }
            assertEquals(
                    Files.readAllLines(home.resolve(targets.get(1) + ".csv")).size(), rejected + 1);
            assertTrue(world.ports().sessions().given() >= sessions);
            assertEquals(world.ports().sessions().ended(), sessions, "the last session is signed off");
        }
    }
}
