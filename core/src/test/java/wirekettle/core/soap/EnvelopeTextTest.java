package wirekettle.core.soap;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNull;

import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;

/** Header blocks put into an envelope's text, whatever its frame looks like, the rest untouched. */
public class EnvelopeTextTest {
    private static final String NS = " xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'";

    @DataProvider
    public Object[][] frames() {
        String open = "<s:Envelope" + NS + ">";
        return new Object[][] {
            {
                open + "<s:Body><a/></s:Body></s:Envelope>",
                open + "<s:Header><h/></s:Header><s:Body i='1'><a/></s:Body></s:Envelope>"
            },
            {open + "<s:Header/><s:Body/></s:Envelope>", open + "<s:Header><h/></s:Header><s:Body i='1'/></s:Envelope>"
            },
            {
                open + "<s:Header a='>'><x><y/></x></s:Header>\n <s:Body>",
                open + "<s:Header a='>'><x><y/></x><h/></s:Header>\n <s:Body i='1'>"
            },
            {
                "<?xml version='1.0'?><!-- <s:Body> -->" + open
                        + "<!--n--><s:Header><![CDATA[</s:Header>]]></s:Header><s:Body>&<",
                "<?xml version='1.0'?><!-- <s:Body> -->" + open
                        + "<!--n--><s:Header><![CDATA[</s:Header>]]><h/></s:Header><s:Body i='1'>&<"
            },
            {
                "<Envelope xmlns='http://www.w3.org/2003/05/soap-envelope'><Body>not <closed",
                "<Envelope xmlns='http://www.w3.org/2003/05/soap-envelope'><Header><h/></Header><Body i='1'>not <closed"
            },
        };
    }

    @Test(dataProvider = "frames")
    public void blocksGoToTheEndOfTheHeader(String text, String expected) {
        assertEquals(EnvelopeText.of(text).with("<h/>", " i='1'"), expected);
    }

    @DataProvider
    public Object[][] none() {
        return new Object[][] {
            {"<a/>"},
            {""},
            {"no XML"},
            {"<s:Envelope" + NS},
            {"<s:Envelope" + NS + "><s:Header><x>"},
            {"<s:Envelope xmlns:s='urn:other'><s:Body/></s:Envelope>"},
            {"<s:Envelope" + NS + "><s:Other/></s:Envelope>"}
        };
    }

    @Test(dataProvider = "none")
    public void whatIsNoEnvelopeHasNoFrame(String text) {
        assertNull(EnvelopeText.of(text));
    }

    @Test
    public void aHeaderThatIsThereIsFoundByItsName() {
        EnvelopeText frame =
                EnvelopeText.of("<s:Envelope" + NS + "><s:Header><w:Security a='1'/></s:Header><s:Body><Action/>");
        assertEquals(frame.hasHeader("Security"), true);
        assertEquals(frame.hasHeader("Action"), false);
        assertEquals(frame.hasHeader("Secur"), false);
    }
}
