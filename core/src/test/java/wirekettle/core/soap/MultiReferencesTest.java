package wirekettle.core.soap;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.nio.charset.StandardCharsets;
import org.testng.annotations.Test;
import wirekettle.core.value.Node;
import wirekettle.core.xml.XmlProblem;

/** Replies whose values stand beside them. */
public class MultiReferencesTest {
    private static Reply reply(String body) throws XmlProblem {
        String text = "<s:Envelope xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'><s:Body>" + body
                + "</s:Body></s:Envelope>";
        return ReplyReader.read(text.getBytes(StandardCharsets.UTF_8));
    }

    @Test
    public void whatIsReferredToStandsInItsPlace() throws XmlProblem {
        Reply reply = reply("<Rooms><item href='#a'/><item href='#a'/></Rooms>"
                + "<multiRef id='a'><name>Glass</name><limits href='#b'/></multiRef>"
                + "<multiRef id='b'><high>21</high></multiRef>");
        assertEquals(reply.body().size(), 1);
        Node rooms = reply.body().get(0);
        assertEquals(rooms.children().size(), 2);
        assertEquals(rooms.children().get(1).name().local(), "item");
        assertEquals(rooms.children().get(1).child("limits").textOf("high"), "21");
        assertEquals(rooms.children().get(0).attributes().size(), 0);
    }

    @Test
    public void aReferenceIntoItselfStaysOne() throws XmlProblem {
        Reply reply = reply("<Box href='#a'/><multiRef id='a'><label>one</label><inner href='#a'/></multiRef>");
        Node box = reply.body().get(0);
        assertEquals(box.textOf("label"), "one");
        assertEquals(box.child("inner").attribute("href").text(), "#a");
    }

    @Test
    public void aReferenceToNothingStaysAsItIs() throws XmlProblem {
        Node box =
                reply("<Box><inner href='#gone'/><other id='x'/></Box>").body().get(0);
        assertEquals(box.child("inner").attribute("href").text(), "#gone");
    }

    @Test
    public void referencesThatMultiplyAreRefusedBeforeTheyFillTheMemory() {
        StringBuilder body = new StringBuilder("<Box href='#r0'/>");
        for (int i = 0; i < 40; i++) {
            String next = "<x href='#r" + (i + 1) + "'/>";
            body.append("<m id='r")
                    .append(i)
                    .append("'>")
                    .append(next.repeat(8))
                    .append("</m>");
        }
        body.append("<m id='r40'>end</m>");
        XmlProblem problem = expectThrows(XmlProblem.class, () -> reply(body.toString()));
        assertEquals(problem.code(), "too-many-elements");
        assertTrue(problem.getMessage().contains("grows too large"), problem.getMessage());
    }
}
