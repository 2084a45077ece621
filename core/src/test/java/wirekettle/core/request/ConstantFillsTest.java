package wirekettle.core.request;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.io.ByteArrayInputStream;
import java.nio.charset.StandardCharsets;
import java.util.List;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Scope;
import wirekettle.core.schema.Picks;
import wirekettle.core.soap.ExampleEnvelope;
import wirekettle.core.value.NodeReader;
import wirekettle.core.value.NodeWriter;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/** Text to sheet and back: the same message. */
public class ConstantFillsTest {
    @DataProvider
    public static Object[][] operations() {
        return List.of("register", "vanline", "climate", "clearance").stream()
                .flatMap(folder -> {
                    Contract contract = World.contract(World.documents(folder));
                    return contract.operations().stream().map(o -> new Object[] {contract, o});
                })
                .toArray(Object[][]::new);
    }

    private static String tidy(byte[] xml) throws XmlProblem {
        return NodeWriter.write(NodeReader.read(new ByteArrayInputStream(xml), "message", XmlLimits.MESSAGES), true);
    }

    @Test(dataProvider = "operations")
    public void anExampleReadIntoFillsIsWrittenAsItWas(Contract contract, Offered offered) throws Exception {
        for (boolean complete : new boolean[] {false, true}) {
            String text = ExampleEnvelope.of(contract, offered.operation().input(), complete, Picks.NONE)
                    .text(offered.port().soapVersion(), true);
            ConstantFills.Result read = ConstantFills.of(
                    contract, offered.operation().input(), offered.port().soapVersion(), text);
            assertEquals(read.problems(), List.of());
            FillPlan plan = FillPlan.compile(
                    contract,
                    offered.operation().input(),
                    offered.port().soapVersion(),
                    read.fills(),
                    null,
                    new Expressions());
            ByteOut out = new ByteOut();
            assertEquals(plan.write(Scope.empty(), out), List.of(), text);
            assertEquals(tidy(out.bytes()), tidy(text.getBytes(StandardCharsets.UTF_8)));
        }
    }

    @Test
    public void whatHasNoRowIsSaidAndTheRestIsRead() throws Exception {
        Contract register = World.register();
        Offered offered = register.operations().get(0);
        String text =
                "<e:Envelope xmlns:e='http://schemas.xmlsoap.org/soap/envelope/'><e:Header><trace/></e:Header><e:Body>"
                        + "<r:LookUpInstitution xmlns:r='urn:halewick:register:1'><r:registrationNumber>RG-10400</r:registrationNumber>"
                        + "<r:colour>red</r:colour></r:LookUpInstitution></e:Body></e:Envelope>";
        ConstantFills.Result read = ConstantFills.of(
                register, offered.operation().input(), offered.port().soapVersion(), text);
        assertEquals(read.fills().size(), 1);
        assertEquals(read.fills().get(0).constant(), "RG-10400");
        assertEquals(read.problems().size(), 2, read.problems().toString());
        assertTrue(read.problems().get(1).startsWith("colour is no field of LookUpInstitution"));
    }

    @Test
    public void whatIsNoXmlIsAProblemWithItsPlace() {
        Contract register = World.register();
        Offered offered = register.operations().get(0);
        XmlProblem problem = expectThrows(
                XmlProblem.class,
                () -> ConstantFills.of(
                        register, offered.operation().input(), offered.port().soapVersion(), "<a>\n<b></a>"));
        assertEquals(problem.line(), 2);
    }
}
