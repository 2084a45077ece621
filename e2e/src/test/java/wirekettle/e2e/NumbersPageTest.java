package wirekettle.e2e;

import static org.testng.Assert.assertEquals;

import com.fasterxml.jackson.databind.JsonNode;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.List;
import org.openqa.selenium.By;
import org.openqa.selenium.Keys;
import org.openqa.selenium.WebElement;
import org.testng.annotations.Test;

/** Series, numbers drawn in a Map, records of an operation, and stages carried to another flow: on the screen. */
public class NumbersPageTest extends FlowEditing {
    private List<String> outline() {
        return browser
                .driver()
                .findElements(By.cssSelector("ol[aria-label=Outline] button[class*=lineButton] b"))
                .stream()
                .map(WebElement::getText)
                .toList();
    }

    private void outlineIs(String... verbs) {
        browser.until("the outline is " + List.of(verbs), () -> outline().equals(List.of(verbs)));
    }

    private void typed(String label, String text) {
        browser.see(".ant-modal [aria-label='" + label + "']").sendKeys(Keys.chord(Keys.CONTROL, "a"), text);
    }

    /** A series is added, its numbers are drawn in a Map by key, and the Map is carried to another flow. */
    @Test
    public void aNumberOfASeriesIsDrawnByKeyAndItsStageCarriedToAnotherFlow() {
        String year = Integer.toString(LocalDate.now(ZoneOffset.UTC).getYear());
        browser.open("/settings?tab=series");
        browser.press("Add a series");
        typed("Name", "loan papers");
        typed("Pattern", "LP-{number:3}");
        browser.press("Add");
        browser.seeText("put {year} into its pattern, or numbers come twice");
        typed("Pattern", "LP-{year}-{number:3}");
        browser.seeText("LP-" + year + "-001, LP-" + year + "-002");
        browser.click(".ant-modal-footer .ant-btn-primary:not([disabled])");
        browser.seeText("none drawn yet");

        newBooking("Numbered bookings");
        browser.keys("1");
        browser.seeText("Each record is");
        add("Makes a record by fills");
        outlineIs("Read", "Map", "Call", "Write");
        browser.click(By.tagName("h2"));
        browser.keys("c");
        browser.see("input[aria-label='Column name']:focus").sendKeys("no", Keys.ENTER);
        browser.until("the column is there", () -> inFocus().equals("no"));
        type("next of loan papers");
        browser.rowShows("no", "LP-" + year + "-001");
        saved();
        browser.click(By.tagName("h2"));
        browser.keys(Keys.chord(Keys.SHIFT, "c"));
        browser.seeText("Copied: Shift V pastes it, in any flow");

        newBooking("Carried bookings");
        browser.keys("1");
        browser.seeText("Each record is");
        browser.keys(Keys.chord(Keys.SHIFT, "v"));
        outlineIs("Read", "Map", "Call", "Write");
        browser.rowShows("no", "LP-" + year + "-001");
        saved();
        browser.keys(Keys.chord(Keys.SHIFT, "v"));
        outlineIs("Read", "Map", "Map", "Call", "Write");
        browser.until("the second makes a variable of its own", () -> browser.see("input[aria-label='Result variable']")
                .getAttribute("value")
                .equals("made2"));
        saved();
    }

    /** A Read takes its records from an operation: its call is filled and made below it, and its rows are the sample. */
    @Test
    public void theRecordsOfAFlowComeFromAnOperation() throws Exception {
        newBooking("Events of a booking");
        browser.keys("1");
        browser.seeText("Each record is");
        browser.clickText("an operation");
        outlineIs("Read", "Call", "Call", "Write");
        browser.clickText("pick one");
        browser.seeText("1.1 · Call");
        browser.choose("Contract", "Vanline Desk");
        browser.choose("Operation", "TrackTransport · VanlinePort");
        browser.seeText("TrackTransport request");
        browser.click(By.tagName("h2"));
        fill("}reference", "\"VD-700100\"");
        saved();
        browser.click(By.tagName("h2"));
        browser.keys(Keys.chord(Keys.CONTROL, Keys.ENTER));
        browser.seeText("Reply kept");
        browser.keys("1");
        browser.seeText("A record is each");
        browser.choose("Rows of the reply", "/event");
        saved();
        browser.until("the events are the samples", () -> browser.text().contains("of 4"));
        JsonNode flows =
                product.client().get("/api/flows?q=Events+of+a+booking").get("items");
        JsonNode file = product.client()
                .get("/api/flows/" + flows.get(0).get("id").asLong())
                .get("file");
        JsonNode from = file.at("/stages/0/from");
        assertEquals(from.get("rows").asText(), "$" + from.at("/call/as").asText() + "/event");
        assertEquals(file.at("/stages/0").has("dataset"), false);
    }
}
