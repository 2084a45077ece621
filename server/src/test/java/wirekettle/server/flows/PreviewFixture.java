package wirekettle.server.flows;

import java.io.IOException;
import java.nio.file.Files;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.UnaryOperator;
import java.util.stream.Collectors;
import org.testng.annotations.AfterClass;
import org.testng.annotations.BeforeClass;
import wirekettle.core.fill.Fill;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.WriteStage;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.MemoryBudget;
import wirekettle.core.value.Column;
import wirekettle.core.value.ScalarType;
import wirekettle.server.Database;
import wirekettle.server.codes.CodeTableMapper;
import wirekettle.server.codes.Codes;
import wirekettle.server.contracts.Contracts;
import wirekettle.server.datasets.DatasetMapper;
import wirekettle.server.datasets.DatasetStore;
import wirekettle.server.datasets.Datasets;
import wirekettle.server.environments.EnvironmentsOf;
import wirekettle.server.series.SeriesOf;
import wirekettle.server.settings.EndpointsOf;

/** Flows over loans with lines, a register that is called, and what is looked up, on a database of their own. */
abstract class PreviewFixture {
    static final String ONE = "{urn:halewick:register:1}";
    static final String LOANS =
            """
            loan_no;institution_no;weight
            L-1;RG-10400;12,5
            L-1;RG-10400;3
            L-2;RG-10401;heavy
            L-3;;7
            L-4;RG-10402;9
            """;

    Database database;
    FlowContext context;
    FlowRecords records;
    Previewer previewer;
    long flow;

    @BeforeClass
    public void open() throws Exception {
        database = Database.open();
        DatasetStore store = Datasets.over(database, Files.createTempDirectory("previews"));
        Datasets.csv(store, "loans", LOANS);
        Datasets.csv(store, "zones", "zone;name\nRG-10400;north\nRG-10401;south\n");
        Contracts.over(database)
                .add(Contracts.register(UnaryOperator.identity()), "Institution Register", "pasted", "ada");
        database.mapper(CodeTableMapper.class)
                .add("lenders", null, "[{\"code\":\"RG-10400\",\"value\":\"Lünbrück\"}]", "ada");
        context = new FlowContext();
        context.contracts = Contracts.over(database);
        context.datasets = database.mapper(DatasetMapper.class);
        context.endpoints = EndpointsOf.a(database);
        context.environments = EnvironmentsOf.a(database);
        context.fixedClock = Optional.of("2026-11-28T22:00:00Z");
        context.codeTables = Codes.over(database);
        context.series = SeriesOf.over(database);
        context.folders = Datasets.folders(store);
        records = new FlowRecords();
        records.datasets = context.datasets;
        records.datasetStore = store;
        records.environments = context.environments;
        records.kept = database.mapper(KeptReplyMapper.class);
        previewer = new Previewer();
        previewer.context = context;
        previewer.flowRecords = records;
        previewer.kept = database.mapper(KeptReplyMapper.class);
        previewer.memory = MemoryBudget.NONE;
        previewer.samples = new Samples();
        previewer.samples.context = context;
        previewer.samples.flowRecords = records;
        flow = database.mapper(FlowMapper.class).add("Check borrowers", "ada");
    }

    @AfterClass(alwaysRun = true)
    public void close() throws Exception {
        database.close();
    }

    static ReadStage read() {
        return new ReadStage("read", "loans", "loan", "$loan/institution_no", List.of("loan_no"));
    }

    static CallStage call() {
        return new CallStage(
                "call",
                "Institution Register",
                null,
                "RegisterPort",
                "LookUpInstitution",
                "Institution Register",
                "reply",
                List.of(
                        Fill.wire(
                                "f1",
                                "/" + ONE + "LookUpInstitution/" + ONE + "registrationNumber",
                                "$loan/institution_no"),
                        Fill.constant("f2", "/" + ONE + "LookUpInstitution/" + ONE + "requestedBy", "HALEWICK")),
                Delivery.of(Delivery.Effect.READS, 4));
    }

    static WriteStage write(String id, Fill... fills) {
        List<Column> columns = java.util.Arrays.stream(fills)
                .map(fill -> new Column(fill.target(), fill.target(), type(fill.target()), null, false))
                .toList();
        return new WriteStage(id, "out", null, null, "", columns, List.of(fills));
    }

    static ScalarType type(String column) {
        return column.equals("weight") ? ScalarType.DECIMAL : ScalarType.STRING;
    }

    Preview at(FlowFile file, String stage, long record, Map<String, FailureClass> suppose) throws IOException {
        return previewer.preview(
                flow, new SampleResource.SampleRequest(file, stage, record, "Test", null, null, suppose, null));
    }

    void keep(long record, String status) {
        keep(record, "", status);
    }

    void keep(long record, String path, String status) {
        String reply = "<s:Envelope xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'><s:Body>"
                + "<LookUpInstitutionResponse xmlns='urn:halewick:register:1'><registrationNumber>RG-10400"
                + "</registrationNumber><name>Lünbrück Gallery</name><status>" + status + "</status>"
                + "</LookUpInstitutionResponse></s:Body></s:Envelope>";
        previewer.kept.keep(
                flow, "call", record, path, "Institution Register", "Test", "hash", "<ask/>", 200, reply, null, 4);
    }

    static String wires(Preview preview) {
        return preview.sources().stream()
                .flatMap(group -> group.fields().stream())
                .map(field -> field.wire() + "=" + field.value())
                .collect(Collectors.joining(" "));
    }
}
