package wirekettle.core.schema;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertThrows;
import static org.testng.Assert.assertTrue;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.value.DocumentForm;

public class LearnedShapeTest {
    private static final List<String> DOCUMENTS = List.of(
            "<r:room xmlns:r='urn:r' xmlns:x='urn:x' no='G1'><r:at>06:00</r:at><r:reading><r:celsius>18.5</r:celsius>"
                    + "</r:reading><x:extra>1</x:extra></r:room>",
            "<r:room xmlns:r='urn:r' no='G2' day='2026-12-04'><r:at>12:00</r:at><r:reading><r:celsius>19</r:celsius>"
                    + "</r:reading><r:reading><r:celsius>20</r:celsius><r:humidity>48</r:humidity></r:reading></r:room>",
            "<r:room xmlns:r='urn:r' no='G3'><r:at>18:00</r:at></r:room>");

    @Test
    public void theSchemaLearnedAcceptsEveryDocumentItWasLearnedFrom() {
        LearnedShape shape = new LearnedShape();
        DOCUMENTS.forEach(text -> shape.learn(World.tree(text)));
        EmbeddedShape learned = EmbeddedShape.read(DocumentForm.XML, null, shape.schemas(), shape.root());
        for (String document : DOCUMENTS) {
            assertEquals(learned.check().problems(document.getBytes(StandardCharsets.UTF_8)), List.of(), document);
        }
        String stranger = "<r:room xmlns:r='urn:r' no='G1'><r:at>1</r:at><r:door/></r:room>";
        assertEquals(
                learned.check()
                        .problems(stranger.getBytes(StandardCharsets.UTF_8))
                        .size(),
                1);
        SheetField reading = learned.sheet().find("/{urn:r}room/{urn:r}reading");
        assertEquals(reading.max(), -1);
        assertEquals(reading.min(), 0);
        assertEquals(
                learned.sheet()
                        .find("/{urn:r}room/{urn:r}reading/{urn:r}celsius")
                        .typeLabel(),
                "decimal");
        assertEquals(learned.sheet().find("/{urn:r}room/{urn:r}at").typeLabel(), "string", "06:00 is no xs:time");
        assertEquals(learned.sheet().find("/{urn:r}room/@day").typeLabel(), "date");
    }

    @Test
    public void learningAgainWidensAndSaysWhatIsNew() {
        LearnedShape first = new LearnedShape();
        first.learn(World.tree(DOCUMENTS.get(0)));
        assertEquals(first.news(), List.of());
        EmbeddedShape known = EmbeddedShape.read(DocumentForm.XML, null, first.schemas(), first.root());
        LearnedShape again = new LearnedShape(known.sheet());
        DOCUMENTS.forEach(text -> again.learn(World.tree(text)));
        List<String> news = new ArrayList<>(again.news());
        assertTrue(news.contains("/room/@day is new"), news.toString());
        assertTrue(news.contains("/room/reading repeats"), news.toString());
        assertTrue(news.contains("/room/reading/humidity is new"), news.toString());
        EmbeddedShape wider = EmbeddedShape.read(DocumentForm.XML, null, again.schemas(), again.root());
        for (String document : DOCUMENTS) {
            assertEquals(wider.check().problems(document.getBytes(StandardCharsets.UTF_8)), List.of(), document);
        }
        assertThrows(IllegalArgumentException.class, () -> again.learn(World.tree("<other/>")));
    }
}
