package wirekettle.cli;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.testng.annotations.Test;
import wirekettle.core.contract.ContractReader;
import wirekettle.core.fill.Fill;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.DatasetSpec;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.EndpointSpec;
import wirekettle.core.flow.file.FlowBundle;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.MapStage;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.WriteStage;
import wirekettle.core.value.Column;
import wirekettle.core.value.ScalarType;
import wirekettle.core.value.Series;
import wirekettle.demo.DemoWorld;

/** A flow that reads an operation, from a shell: what it leaves for the next run is in a file. */
public class OperationSourceTest {
    private static final String TRACK = "/{urn:halewick:vanline:2}TrackTransport/{urn:halewick:vanline:2}";

    private static Column column(String name) {
        return new Column(name, name, ScalarType.STRING, null, false);
    }

    private static FlowBundle bundle(DemoWorld world) throws Exception {
        CallStage call = new CallStage(
                "source",
                "Vanline Desk",
                "VanlineDesk",
                "VanlinePort",
                "TrackTransport",
                "Vanline Desk",
                "reply",
                List.of(
                        Fill.constant("f1", TRACK + "reference", "VD-700100"),
                        Fill.expression("f2", TRACK + "since", "substring($watermark, 1, 10)")
                                .with(new Fill.WhenEmpty(Fill.WhenEmpty.Use.LEAVE_OUT, null))),
                Delivery.of(Delivery.Effect.READS, 1));
        ReadStage read = new ReadStage("read", null, "event", "$event/at")
                .from(new ReadStage.FromOperation(call, "$reply/event", "$event/at", null));
        Fill number = Fill.number("m1", "no", "event numbers");
        MapStage map = MapStage.byFills("number", "paper", List.of(column("no")), List.of(number));
        WriteStage write = new WriteStage(
                "write",
                "events",
                null,
                null,
                null,
                List.of(column("no"), column("place")),
                List.of(Fill.wire("w1", "no", "$paper/no"), Fill.wire("w2", "place", "$event/place")));
        Series series = new Series("event numbers", true, 1, "E-{number:2}", false, null);
        return new FlowBundle(
                FlowFile.of("Events", read, map, write),
                Map.of("Vanline Desk", ContractReader.read(DemoWorld.vanlineDocuments(), true)),
                Map.of(
                        "events",
                        new DatasetSpec(
                                "events",
                                DatasetSpec.Kind.CSV,
                                "events.csv",
                                DatasetSpec.CsvShape.DEFAULT,
                                null,
                                null,
                                null,
                                null)),
                Map.of("Vanline Desk", new EndpointSpec("Vanline Desk", world.address("vanline"))),
                Map.of(),
                Map.of(series.name(), series));
    }

    @Test
    public void theEventsOfATransportAreReadAndNumbered() throws Exception {
        try (DemoWorld world = new DemoWorld(0)) {
            Path home = Files.createTempDirectory("events");
            Path zip = home.resolve("events.zip");
            Files.write(zip, bundle(world).zip());
            Path state = home.resolve("state");
            List<String> run =
                    new ArrayList<>(List.of("run", zip.toString(), "--out", "events=" + home.resolve("events.csv")));
            assertEquals(Kettle.run(run.toArray(String[]::new)), 2, "without a place for what it leaves");
            run.addAll(List.of(
                    "--state",
                    state.toString(),
                    "--ledger",
                    home.resolve("books").toString()));
            assertEquals(Kettle.run(run.toArray(String[]::new)), 0);
            List<String> rows = Files.readAllLines(home.resolve("events.csv"));
            assertEquals(rows.size(), 5, rows.toString());
            assertEquals(
                    rows.stream()
                            .skip(1)
                            .map(row -> row.substring(0, 4))
                            .sorted()
                            .toList(),
                    List.of("E-01", "E-02", "E-03", "E-04"));
            assertTrue(
                    Files.readString(state).contains("{\"watermark\":\"2026-11-16T12:46:00Z\",\"flow\":\"Events\"}"));
        }
    }
}
