package wirekettle.core.flow.offer;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.contract.Contract;
import wirekettle.core.expression.Expressions;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.Surroundings;
import wirekettle.core.flow.file.AnswerStage;
import wirekettle.core.flow.file.Delivery;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.record.InputReader;
import wirekettle.core.record.InputShape;
import wirekettle.core.value.Column;
import wirekettle.core.value.ScalarType;

/** Operations offered as JSON: input and answer mirror their messages. */
public class OfferingTest {
    private static FlowFile offered(String operation) {
        Contract contract = World.vanline();
        Contract.Offered its = contract.operations().stream()
                .filter(each -> each.operation().name().equals(operation))
                .findFirst()
                .orElseThrow();
        return Offering.of("Offered", "Vanline Desk", contract, its, Delivery.of(Delivery.Effect.READS, 4));
    }

    private static InputShape input(FlowFile file) {
        return file.source().orElseThrow().input();
    }

    @DataProvider
    public Object[][] operations() {
        return World.vanline().operations().stream()
                .map(each -> each.operation().name())
                .distinct()
                .map(name -> new Object[] {name})
                .toArray(Object[][]::new);
    }

    @Test(dataProvider = "operations")
    public void everyOperationGivesASoundFlow(String operation) {
        CompiledFlow flow = CompiledFlow.of(
                offered(operation), Surroundings.of(Map.of("Vanline Desk", World.vanline()), null, new Expressions()));
        assertEquals(flow.problems().toString(), "[]");
        assertTrue(flow.runnable());
    }

    @Test
    public void theInputMirrorsTheRequest() {
        InputShape booking = input(offered("BookTransport"));
        assertEquals(booking.lists().toString(), "[collectFrom/street, deliverTo/street, crate, crate/content]");
        Column crate = column(booking.columns(), "crate/grossKilograms");
        assertEquals(crate.type(), ScalarType.DECIMAL);
        assertEquals(column(booking.columns(), "collectOn").type(), ScalarType.DATE);
        assertTrue(column(booking.columns(), "loanReference").required());
        assertTrue(!column(booking.columns(), "remark").required());
        assertTrue(!column(booking.columns(), "deliverOn").required(), "one of a choice");
    }

    @Test(dataProvider = "operations")
    public void itsSampleIsWhatACallerMaySend(String operation) throws Exception {
        InputShape shape = input(offered(operation));
        List<InputReader.Problem> problems = new ArrayList<>();
        new InputReader(shape, "input")
                .json(shape.samples().get(0).getBytes(StandardCharsets.UTF_8), Map.of(), problems);
        assertEquals(problems, List.of(), shape.samples().get(0));
    }

    @Test
    public void theAnswerMirrorsTheReply() {
        AnswerStage answer = offered("BookTransport").all(AnswerStage.class).stream()
                .filter(each -> each.id().equals("answer"))
                .findFirst()
                .orElseThrow();
        assertEquals(
                answer.columns().stream().map(Column::name).toList(),
                List.of("reference", "status", "crate/number", "crate/label"));
        assertEquals(answer.groups().get(0).name(), "crate");
    }

    private static Column column(List<Column> columns, String name) {
        return columns.stream()
                .filter(each -> each.name().equals(name))
                .findFirst()
                .orElseThrow(() -> new AssertionError("no " + name + " in " + columns));
    }
}
