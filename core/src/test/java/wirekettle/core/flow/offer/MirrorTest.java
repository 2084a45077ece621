package wirekettle.core.flow.offer;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Message;
import wirekettle.core.schema.Picks;
import wirekettle.core.soap.ExampleEnvelope;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeWriter;

/** Records without namespaces stand for messages, and messages are made of them again. */
public class MirrorTest {
    /** What a record cannot tell: wildcards, substitutes, types derived from the declared one, empties, fixed values. */
    private static final List<String> MORE_THAN_RECORDS = List.of(
            "all-built-in-types.wsdl",
            "any.wsdl",
            "derived-across-files/service.wsdl",
            "substitution-group.wsdl",
            "deep-recursion.wsdl",
            "circular/service.wsdl",
            "extension-and-restriction.wsdl",
            "fixed-and-default.wsdl",
            "known-schemas.wsdl",
            "rpc-encoded.wsdl");

    @DataProvider
    public Object[][] contracts() {
        List<Object[]> all = new ArrayList<>();
        all.add(new Object[] {"register", World.register()});
        all.add(new Object[] {"vanline", World.vanline()});
        for (String name : World.awkward()) {
            if (!MORE_THAN_RECORDS.contains(name)) {
                all.add(new Object[] {name, World.awkward(name)});
            }
        }
        return all.toArray(Object[][]::new);
    }

    @Test(dataProvider = "contracts")
    public void aCompleteMessageComesBackAsItWas(String name, Contract contract) {
        for (Contract.Offered offered : contract.operations()) {
            for (Message message : List.of(
                    offered.operation().input(),
                    offered.operation().output() == null
                            ? Message.EMPTY
                            : offered.operation().output())) {
                ExampleEnvelope example = ExampleEnvelope.of(contract, message, true, Picks.NONE);
                if (!example.wrong(contract).isEmpty() || message.encoded()) {
                    continue;
                }
                Node record = Mirror.record(contract, message, example.headers(), example.body(), "input");
                List<Node> again = Mirror.body(contract, message, record);
                assertEquals(
                        written(again),
                        written(example.body()),
                        offered.operation().name() + " " + record);
            }
        }
    }

    private static List<String> written(List<Node> nodes) {
        return nodes.stream().map(each -> NodeWriter.write(each, false)).toList();
    }

    @Test
    public void whatHasNoValueIsLeftOutWhereItMayBe() throws Exception {
        Contract contract = World.register();
        Message reply = contract.operations().get(0).operation().output();
        Node record = World.record(
                "answer", "registrationNumber", "RG-10696", "name", "Aldermere Museum", "status", "active");
        List<Node> body = Mirror.body(contract, reply, record);
        String text = NodeWriter.write(body.get(0), false);
        assertTrue(text.contains("RG-10696"), text);
        assertTrue(!text.contains("founded"), text);
        assertTrue(text.contains("address"), "it must be there: " + text);
        List<String> problems = contract.check().problems(text.getBytes(StandardCharsets.UTF_8));
        assertTrue(problems.stream().allMatch(each -> each.contains("street") || each.contains("city")), "" + problems);
    }
}
