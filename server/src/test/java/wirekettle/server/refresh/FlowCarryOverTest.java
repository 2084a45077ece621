package wirekettle.server.refresh;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import java.util.List;
import java.util.function.UnaryOperator;
import org.testng.annotations.AfterMethod;
import org.testng.annotations.BeforeMethod;
import org.testng.annotations.Test;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.ContractComparison;
import wirekettle.core.fill.Fill;
import wirekettle.core.flow.file.BranchStage;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.WriteStage;
import wirekettle.core.value.Column;
import wirekettle.core.value.ScalarType;
import wirekettle.server.Database;
import wirekettle.server.contracts.Contracts;
import wirekettle.server.flows.FlowMapper;

/** Flows taken over to a new revision of a contract, wherever in them it is called. */
public class FlowCarryOverTest {
    private static final String ONE = "{urn:halewick:register:1}";
    private static final String TWO = "{urn:halewick:register:2}";

    private Database database;
    private FlowMapper flows;
    private FlowCarryOver carry;
    private Contract before;

    @BeforeMethod
    public void open() throws Exception {
        database = Database.open();
        flows = database.mapper(FlowMapper.class);
        carry = new FlowCarryOver();
        carry.flows = flows;
        before = Contracts.register(UnaryOperator.identity());
    }

    @AfterMethod(alwaysRun = true)
    public void close() throws Exception {
        database.close();
    }

    private static CallStage call(String id, String field) {
        return new CallStage(
                id,
                "Institution Register",
                null,
                "RegisterPort",
                "LookUpInstitution",
                "Institution Register",
                id,
                List.of(Fill.wire("f" + id, "/" + ONE + "LookUpInstitution/" + ONE + field, "$loan/no")),
                Delivery.of(Delivery.Effect.READS, 4));
    }

    private static WriteStage write(String id, String wire) {
        Column column = new Column("limit", "limit", ScalarType.STRING, null, false);
        return new WriteStage(id, "out", null, null, "", List.of(column), List.of(Fill.wire("w" + id, "limit", wire)));
    }

    /** A flow that calls at its top, inside a way, and in a lane. */
    private long flow() {
        CallStage inLane = call("lane", "registrationNumber");
        Lane lane = Lane.of(Lane.Rule.run("rule", List.of(), Lane.Then.GO_ON, inLane));
        BranchStage branch = new BranchStage(
                "branch",
                List.of(new BranchStage.Way("way", "way", null, List.of(call("inside", "registrationNumber")))),
                null);
        FlowFile file = FlowFile.of(
                "Check borrowers",
                new ReadStage("read", "loans", "loan", "$loan/no"),
                call("top", "registrationNumber"),
                branch,
                write("write", "$top/insuredLimit").failing(lane));
        long id = flows.add(file.name(), "ada");
        flows.keep(id, 1, file.text(), "ada");
        return id;
    }

    private static String targets(FlowFile file) {
        StringBuilder all = new StringBuilder();
        file.all(CallStage.class)
                .forEach(each -> all.append(each.fills().get(0).target()).append(' '));
        return all.toString();
    }

    @Test
    public void fillsMoveToANewNamespaceInWaysAndLanesToo() throws Exception {
        long id = flow();
        Contract after = Contracts.register(text -> text.replace("urn:halewick:register:1", "urn:halewick:register:2"));
        assertEquals(carry.carryOver("Institution Register", after, "bo"), 1);
        assertEquals(flows.byId(id).revision(), (Integer) 2);
        FlowFile carried = FlowFile.parse(flows.file(id, 2));
        assertEquals(
                targets(carried), targets(FlowFile.parse(flows.file(id, 1))).replace(ONE, TWO));
        assertEquals(carry.carryOver("Institution Register", after, "bo"), 0);
    }

    @Test
    public void flowsOfOtherContractsAreLeftAlone() throws Exception {
        flow();
        Contract after = Contracts.register(text -> text.replace("urn:halewick:register:1", "urn:halewick:register:2"));
        assertEquals(carry.carryOver("Vanline Desk", after, "bo"), 0);
        assertEquals(carry.touched("Vanline Desk", after, List.of()), List.of());
    }

    @Test
    public void whatAChangeTouchesIsNamedStageByStage() throws Exception {
        flow();
        Contract after = Contracts.register(
                text -> text.replace("registrationNumber", "number").replace("insuredLimit", "insuredMost"));
        List<FlowCarryOver.TouchedFlow> touched =
                carry.touched("Institution Register", after, ContractComparison.of(before, after));
        assertEquals(touched.size(), 3);
        for (FlowCarryOver.TouchedFlow each : touched) {
            assertTrue(each.fills().stream().anyMatch(fill -> fill.outcome().equals("lost")), each.toString());
        }
        FlowCarryOver.TouchedFlow top = touched.get(0);
        assertTrue(
                top.fills().stream()
                        .anyMatch(fill -> fill.stage().equals("write")
                                && fill.what().equals("$top/insuredLimit")
                                && fill.why().equals("the reply has no such field any more")),
                top.toString());
    }

    @Test
    public void anOperationThatIsGoneIsAProblemOfItsFlow() throws Exception {
        flow();
        Contract after = Contracts.register(text -> text.replace("LookUpInstitution", "FindInstitution"));
        List<FlowCarryOver.TouchedFlow> touched = carry.touched("Institution Register", after, List.of());
        assertEquals(touched.get(0).problem(), "the operation LookUpInstitution at port RegisterPort is gone");
    }
}
