package wirekettle.core.flow.file;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import com.networknt.schema.InputFormat;
import com.networknt.schema.JsonSchema;
import com.networknt.schema.JsonSchemaFactory;
import com.networknt.schema.SpecVersion;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.expression.Expressions;
import wirekettle.core.fill.Fill;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.FlowProblem;
import wirekettle.core.flow.compile.Surroundings;

public class FlowFileTest {
    private static String demo() throws Exception {
        return Files.readString(Path.of("../demo/src/main/resources/world/flows/check-borrowers.json"));
    }

    private static CompiledFlow compiled(FlowFile file) {
        return CompiledFlow.of(
                file, Surroundings.of(Map.of("Institution Register", World.register()), null, new Expressions()));
    }

    @Test
    public void aFlowFileReadAndWrittenIsTheSame() throws Exception {
        FlowFile file = FlowFile.parse(demo());
        assertEquals(FlowFile.parse(file.text()), file);
        assertEquals(file.text(), FlowFile.parse(file.text()).text());
    }

    @Test
    public void fillsAreReplacedWhereverTheyStand() {
        Fill old = Fill.wire("w1", "a", "$t/a");
        Fill now = Fill.constant("w1", "a", "none");
        Lane uses = Lane.of(Lane.Rule.use("use", List.of(), List.of(), List.of(old)));
        MapStage map = MapStage.byFills("map", "made", List.of(), List.of(old)).failing(uses);
        MapStage inLane = MapStage.byFills("inner", "other", List.of(), List.of(old));
        BranchStage branch = new BranchStage(
                "b",
                List.of(new BranchStage.Way("w", null, null, List.of(map))),
                Lane.of(Lane.Rule.run("run", List.of(), Lane.Then.GO_ON, inLane)));
        FlowFile file = FlowFile.of("Fills", new ReadStage("read", "loans", "t", null), branch);
        for (String place : List.of("use", "map", "inner")) {
            FlowFile changed = file.filled(place, List.of(now));
            changed.fillsById().forEach((id, fills) -> {
                boolean its = id.equals(place);
                assertEquals(fills.contains(now), its, place + " at " + id);
                assertEquals(fills.contains(old), !its && !fills.isEmpty(), place + " at " + id);
            });
            assertEquals(changed.filled(place, List.of(old)), file);
        }
        assertEquals(file.fills().size(), 3);
    }

    /** Before there were lanes a call had a number of retries and a place for what it rejected. */
    @Test
    public void aFlowOfFormat1IsReadAsWhatItMeans() throws Exception {
        FlowFile file = FlowFile.parse(
                """
                {"format": 1, "name": "Old", "stages": [
                  {"verb": "Read", "id": "read", "dataset": "loans", "as": "loan", "key": "$loan/crate_no"},
                  {"verb": "Call", "id": "call", "contract": "Institution Register", "service": "InstitutionRegister",
                   "port": "RegisterPort", "operation": "LookUpInstitution", "endpoint": "Institution Register",
                   "as": "borrower", "fills": [],
                   "delivery": {"effect": "reads", "atOnce": 8, "retries": 3, "backOffMillis": 250,
                     "resendChanges": true, "keep": "failures", "connectMillis": 2000, "firstByteMillis": 5000,
                     "wholeMillis": 10000, "failedWhen": []},
                   "rejects": {"id": "refused", "dataset": "rejects", "mode": "replace", "rows": "",
                     "columns": [{"name": "why", "label": "why", "type": "string", "required": false}],
                     "fills": [{"id": "x1", "target": "why", "wire": "$failure/message"}]}},
                  {"verb": "Write", "id": "write", "dataset": "borrowers", "mode": "replace", "rows": "",
                   "columns": [], "fills": []}]}
                """);
        assertEquals(file.format(), FlowFile.FORMAT);
        CallStage call = file.all(CallStage.class).get(0);
        Lane.Rule again = call.lane().rules().get(0);
        assertEquals(again.then(), Lane.Then.AGAIN);
        assertEquals(again.times(), Integer.valueOf(3));
        assertEquals(again.backOffMillis(), Integer.valueOf(250));
        Lane.Rule rejected = file.lane().rules().get(0);
        assertEquals(rejected.then(), Lane.Then.REJECT);
        WriteStage refused = (WriteStage) rejected.stages().get(0);
        assertEquals(refused.dataset(), "rejects");
        assertTrue(refused.leaveUnfit(), "what cannot be mapped is left empty, not a second failure");
        assertEquals(FlowFile.parse(file.text()), file);
    }

    @DataProvider
    public Object[][] broken() {
        return new Object[][] {
            {"{\"format\":3,\"name\":\"x\",\"stages\":[]}", "format 3"},
            {"{\"format\":2,\"name\":\"x\",\"stages\":[{\"verb\":\"Fly\",\"id\":\"a\"}]}", "Fly"},
            {"{\"format\":2,\"nam\":\"x\"}", "nam"},
            {"{\"format\":1,", "line 1 column"},
        };
    }

    @Test(dataProvider = "broken")
    public void aBrokenFlowFileSaysWhatIsWrong(String json, String said) {
        IllegalArgumentException e = expectThrows(IllegalArgumentException.class, () -> FlowFile.parse(json));
        assertTrue(e.getMessage().contains(said), e.getMessage());
    }

    @DataProvider
    public Object[][] edits() {
        return new Object[][] {
            {
                "\"operation\" : \"LookUpInstitution\"",
                "\"operation\" : \"LookUpNothing\"",
                "has no operation LookUpNothing"
            },
            {"\"contract\" : \"Institution Register\"", "\"contract\" : \"Gone\"", "“Gone” is not there"},
            {"$loan/loan_no", "$lone/loan_no", "$lone is not known here"},
            {"$borrower/status = 'suspended'", "$borrower/status = ", "counts as failed when"},
            {"\"target\" : \"city\"", "\"target\" : \"town\"", "town is no column"},
            {"\"mode\" : \"replace\"", "\"mode\" : \"upsert\"", "upsert needs the columns"},
        };
    }

    @Test(dataProvider = "edits")
    public void validationOnLoadNamesTheProblem(String from, String to, String said) throws Exception {
        String text = FlowFile.parse(demo()).text();
        assertTrue(text.contains(from), from);
        FlowFile file = FlowFile.parse(text.replace(from, to));
        CompiledFlow flow = compiled(file);
        List<String> all = flow.problems().stream().map(FlowProblem::message).toList();
        assertTrue(all.stream().anyMatch(m -> m.contains(said)), all.toString());
    }

    @Test
    public void thePublishedSchemaAcceptsTheDemoFlowAsWrittenAndRefusesAForeignMember() throws Exception {
        JsonSchema schema = JsonSchemaFactory.getInstance(SpecVersion.VersionFlag.V202012)
                .getSchema(Files.readString(Path.of("../docs/flow-file.schema.json")));
        assertEquals(schema.validate(demo(), InputFormat.JSON).size(), 0);
        String written = FlowFile.parse(demo()).text();
        assertEquals(schema.validate(written, InputFormat.JSON).toString(), "[]");
        assertTrue(schema.validate(written.replace("\"wire\"", "\"wired\""), InputFormat.JSON)
                        .size()
                > 0);
    }

    @Test
    public void theDemoFlowHasNoProblems() throws Exception {
        CompiledFlow flow = compiled(FlowFile.parse(demo()));
        assertEquals(flow.problems(), List.of());
        assertTrue(flow.runnable());
    }
}
