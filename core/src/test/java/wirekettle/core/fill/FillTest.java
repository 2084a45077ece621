package wirekettle.core.fill;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import com.fasterxml.jackson.databind.JsonMappingException;
import com.fasterxml.jackson.databind.ObjectMapper;
import java.util.List;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;

/** Fills as the flow file writes them: what fills a field stands beside the rest, under its own name. */
public class FillTest {
    private static final ObjectMapper JSON = new ObjectMapper();

    @DataProvider
    public Object[][] forms() {
        return new Object[][] {
            {"'wire':'$loan/loan_no'", new FilledBy.Wire("$loan/loan_no")},
            {"'constant':''", new FilledBy.Constant("")},
            {"'expression':'1 + 1'", new FilledBy.Expression("1 + 1")},
            {"'join':{'parts':['$loan/a','\\'-\\''],'by':'/'}", new FilledBy.Join(List.of("$loan/a", "'-'"), "/")},
            {"'copy':'$loan'", new FilledBy.Copy("$loan")},
            {"'secret':'desk code'", new FilledBy.Secret("desk code")},
            {"'nil':true", new FilledBy.Nil()},
            {"'key':'$loan/line'", new FilledBy.Key("$loan/line")},
            {"'repeat':'$loan/line','as':'crate'", new FilledBy.Repeat("$loan/line", "crate", null, null)},
            {
                "'expression':'upper-case($crate)','repeat':'$loan/line','as':'crate','each':{'where':'$crate/kg gt 1'}",
                new FilledBy.Repeat(
                        "$loan/line",
                        "crate",
                        new Fill.Each("$crate/kg gt 1", null, null),
                        new FilledBy.Expression("upper-case($crate)"))
            },
            {"'pick':true", new FilledBy.Pick()},
            {"'remark':'to be asked'", new FilledBy.Nothing()},
        };
    }

    @Test(dataProvider = "forms")
    public void aFillIsReadAndWrittenTheSame(String members, FilledBy by) throws Exception {
        String text = "{'id':'f1','target':'/{urn:x}a'," + members + "}";
        String json = text.replace("\\'", "\u0000").replace('\'', '"').replace("\u0000", "'");
        Fill read = JSON.readValue(json, Fill.class);
        assertEquals(read.by(), by);
        assertEquals(JSON.writeValueAsString(read), json);
    }

    @Test
    public void aFillThatSaysTwoThingsIsRefusedByName() {
        JsonMappingException refused = expectThrows(
                JsonMappingException.class,
                () -> JSON.readValue(
                        "{\"id\":\"f1\",\"target\":\"city\",\"wire\":\"$loan/a\",\"constant\":\"b\"}", Fill.class));
        assertTrue(refused.getMessage().contains("“f1” of city says several things at once"), refused.getMessage());
    }
}
