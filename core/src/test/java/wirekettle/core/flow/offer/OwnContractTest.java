package wirekettle.core.flow.offer;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.ContractReader;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.flow.file.AnswerStage;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.record.InputReader;
import wirekettle.core.record.InputShape;
import wirekettle.core.schema.Picks;
import wirekettle.core.soap.ExampleEnvelope;
import wirekettle.core.value.Column;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeWriter;
import wirekettle.core.value.ScalarType;

/** The service description of flows, read as any other. */
public class OwnContractTest {
    private static OwnContract.Operation operation(Contract.Offered each) {
        FlowFile file =
                Offering.of("Offered", "Vanline Desk", World.vanline(), each, Delivery.of(Delivery.Effect.READS, 4));
        AnswerStage answer = file.all(AnswerStage.class).stream()
                .filter(its -> its.id().equals("answer"))
                .findFirst()
                .orElse(null);
        return new OwnContract.Operation(
                each.operation().name(), file.source().orElseThrow().input(), answer, "For <partners> & others.");
    }

    private static Contract read(String text) throws Exception {
        return ContractReader.read(World.text("service.wsdl", text), true);
    }

    @Test
    public void itIsReadWithoutFindingsInBothVersionsOfSoap() throws Exception {
        List<OwnContract.Operation> all = new ArrayList<>();
        for (Contract.Offered each : World.vanline().operations()) {
            if (all.stream().noneMatch(its -> its.name().equals(each.operation().name()))) {
                all.add(operation(each));
            }
        }
        Contract own = read(OwnContract.wsdl("Desk", "urn:test:desk", "http://desk.example/serve/test/desk", all));
        assertEquals(own.findings(), List.of());
        assertEquals(
                own.services().get(0).ports().stream()
                        .map(each -> each.soapVersion())
                        .toList(),
                List.of(SoapVersion.SOAP_11, SoapVersion.SOAP_12));
        assertEquals(own.operations().size(), 2 * all.size());
        for (Contract.Offered each : own.operations()) {
            assertEquals(each.operation().style(), "document");
            assertEquals(each.operation().faults().get(0).name(), OwnContract.FAULT);
            ExampleEnvelope example = ExampleEnvelope.of(own, each.operation().input(), true, Picks.NONE);
            assertEquals(example.wrong(own), List.of(), each.operation().name());
        }
    }

    @Test
    public void itsMessagesAreWhatTheFlowTakes() throws Exception {
        InputShape shape = new InputShape(
                List.of(
                        new Column("loan", "Loan no.", ScalarType.STRING, null, true),
                        new Column("sealed_on", "sealed_on", ScalarType.DATE, null, false),
                        new Column("crates/no", "no", ScalarType.INTEGER, null, true),
                        new Column("crates/glass", "glass", ScalarType.BOOLEAN, null, false)),
                List.of("crates"),
                null);
        Contract own = read(OwnContract.wsdl(
                "Loans",
                "urn:test:loans",
                "http://desk.example/serve/test/loans",
                List.of(new OwnContract.Operation("Seal", shape, null, null))));
        var offered = own.operations().get(0);
        ExampleEnvelope example = ExampleEnvelope.of(own, offered.operation().input(), true, Picks.NONE);
        Node record = Mirror.record(own, offered.operation().input(), List.of(), example.body(), "input");
        List<InputReader.Problem> problems = new ArrayList<>();
        new InputReader(shape, "input")
                .xml(NodeWriter.write(record, false).getBytes(StandardCharsets.UTF_8), Map.of(), problems);
        assertEquals(problems, List.of(), NodeWriter.write(record, false));

        List<String> wrong = own.check()
                .problems(("<Seal xmlns='urn:test:loans'><loan>L-1</loan><sealed_on>soon</sealed_on>"
                                + "<crates><no>1</no></crates></Seal>")
                        .getBytes(StandardCharsets.UTF_8));
        assertTrue(wrong.toString().contains("soon"), wrong.toString());
        assertEquals(
                own.operations()
                        .get(0)
                        .operation()
                        .output()
                        .body()
                        .get(0)
                        .name()
                        .local(),
                "SealResponse");
    }
}
