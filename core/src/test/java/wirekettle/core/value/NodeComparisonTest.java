package wirekettle.core.value;

import static org.testng.Assert.assertEquals;

import java.io.ByteArrayInputStream;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Set;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

public class NodeComparisonTest {
    private static Node node(String xml) throws XmlProblem {
        return NodeReader.read(
                new ByteArrayInputStream(xml.getBytes(StandardCharsets.UTF_8)), "message", XmlLimits.MESSAGES);
    }

    @DataProvider
    public static Object[][] pairs() {
        return new Object[][] {
            {"<a x='1' y='2'><b> one </b></a>", "<a y='2' x='1'><b>one</b></a>", List.of()},
            {"<p:a xmlns:p='urn:a'><p:b/></p:a>", "<a xmlns='urn:a'><b/></a>", List.of()},
            {"<a><b>1</b></a>", "<a><b>2</b></a>", List.of("CHANGED a/b 1>2")},
            {"<a><b>1</b><b>2</b></a>", "<a><b>1</b></a>", List.of("REMOVED a/b[2] 2>")},
            {"<a/>", "<a no='7'><b><c/></b></a>", List.of("ADDED a/@no >7", "ADDED a/b >…")},
            {"<a xmlns='urn:1'/>", "<a xmlns='urn:2'/>", List.of("CHANGED a {urn:1}a>{urn:2}a")},
            {
                "<a><b>x</b></a>",
                "<a><b xmlns:xsi='http://www.w3.org/2001/XMLSchema-instance' xsi:nil='true'/></a>",
                List.of("CHANGED a/b x>nil")
            },
            {"<a><at>09:14</at><b>1</b></a>", "<a><at>09:15</at><b>1</b></a>", List.of()},
        };
    }

    @Test(dataProvider = "pairs")
    public void treesAreComparedByStructure(String before, String after, List<String> expected) throws Exception {
        assertEquals(
                NodeComparison.of(node(before), node(after), Set.of("at")).stream()
                        .map(d -> d.kind() + " " + d.path() + " " + d.before() + ">" + d.after())
                        .toList(),
                expected);
    }
}
