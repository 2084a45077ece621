package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import java.util.Map;
import org.openqa.selenium.By;
import org.openqa.selenium.Keys;
import org.openqa.selenium.WebElement;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.BeforeMethod;
import org.testng.annotations.Test;

/**
 * The flow page on the demo's data: filling by key, by drag and by a fix; undo; finding; what a failing record shows.
 */
public class FlowPageTest extends BrowserTest {
    @BeforeClass
    public void start() throws Exception {
        begin("-Xmx512m", true);
        browser.signIn("ada", product.password());
    }

    @BeforeMethod
    public void openTheCall() {
        browser.open("/flows/1?stage=call");
        browser.seeText("50 rows");
        browser.until(
                "the sample is shown", () -> browser.row("purpose").getText().contains("loan"));
    }

    /** Puts the focus on a row by its name; a click on the fill of a row in focus would edit it. */
    private void focus(String field) {
        browser.row(field).findElement(By.xpath("./span[2]")).click();
        browser.until(
                field + " is in focus", () -> "true".equals(browser.row(field).getAttribute("aria-selected")));
    }

    private void saved() {
        browser.until(
                "the draft is saved", () -> browser.see("footer").getText().endsWith("Saved"));
    }

    @Test
    public void aClearedFillIsMendedByTypingAndAFixAndUndone() {
        focus("insuredValue");
        browser.keys(Keys.DELETE);
        browser.until(
                "the fill is gone", () -> !browser.row("insuredValue").getText().contains("$loan"));
        browser.keys("$");
        WebElement cell = browser.see("[role=row] input[aria-label=Fill]");
        cell.sendKeys("loan/insured_value", Keys.ESCAPE);
        browser.until("the cell is left", () -> browser.driver()
                .findElements(By.cssSelector("input[aria-label=Fill]"))
                .isEmpty());
        focus("insuredValue");
        browser.keys(Keys.ENTER);
        browser.see("[role=row] input[aria-label=Fill]").sendKeys("$loan/insured_value", Keys.ENTER);
        browser.rowShows("insuredValue", "no decimal");
        assertTrue(browser.row("insuredValue")
                .findElement(By.cssSelector("[role=img]"))
                .getAttribute("aria-label")
                .contains("50 invalid"));
        browser.press("Read 707735,50 as 707735.50");
        browser.rowShows("insuredValue", "decimal comma");
        browser.until(
                "the value fits", () -> !browser.row("insuredValue").getText().contains("no decimal"));
        saved();
        browser.click(By.tagName("h1"));
        browser.keys(Keys.chord(Keys.CONTROL, "z"));
        browser.rowShows("insuredValue", "no decimal");
        browser.keys(Keys.chord(Keys.CONTROL, "y"));
        browser.rowShows("insuredValue", "decimal comma");
        saved();
    }

    @Test
    public void aFieldDraggedOntoARowFillsIt() {
        Object done = browser.script("const s=document.querySelector('[data-wire=\"$loan/crate_no\"]');"
                + "const t=[...document.querySelectorAll('[data-target]')].find(e=>e.dataset.target.endsWith('loanReference'));"
                + "const d=new DataTransfer();"
                + "s.dispatchEvent(new DragEvent('dragstart',{dataTransfer:d,bubbles:true}));"
                + "t.dispatchEvent(new DragEvent('dragover',{dataTransfer:d,bubbles:true,cancelable:true}));"
                + "t.dispatchEvent(new DragEvent('drop',{dataTransfer:d,bubbles:true,cancelable:true}));return true;");
        assertEquals(done, true);
        browser.rowShows("loanReference", "HC-20481-1");
        browser.until(
                "a wire is drawn",
                () -> ((Number) browser.script(
                                        "return document.querySelectorAll('svg path[stroke-width=\"2.4\"]').length"))
                                .intValue()
                        == 1);
        saved();
    }

    @Test
    public void aRecordThatFailsIsShownWithItsProblemWhereverTheLinkComesFrom() {
        browser.open("/runs/1");
        browser.press("characters, at most 12");
        browser.until(
                "one record is listed",
                () -> browser.driver()
                                .findElements(By.cssSelector("tbody tr.ant-table-row"))
                                .size()
                        == 1);
        browser.click("tbody tr.ant-table-row a");
        browser.clickText("with this record as the sample");
        browser.until("the fill is shown", () -> browser.location().contains("record=52"));
        browser.rowShows("registrationNumber", "RG-10437-ALDERSUND-WEST");
        assertEquals(browser.row("registrationNumber").getAttribute("aria-selected"), "true");
        browser.seeText("23 characters, at most 12");
    }

    @Test
    public void theSampleMovesByKeyAndTheRowsByArrow() {
        browser.click(By.tagName("h1"));
        browser.keys("]");
        browser.until(
                "the second record is shown",
                () -> browser.see("footer").getText().startsWith("loan 2"));
        browser.keys("[");
        browser.until(
                "the first record is shown",
                () -> browser.see("footer").getText().startsWith("loan 1"));
        focus("registrationNumber");
        browser.keys(Keys.ARROW_DOWN, Keys.ARROW_DOWN);
        browser.until("the third field is in focus", () -> "true"
                .equals(browser.row("loanReference").getAttribute("aria-selected")));
        browser.keys("/");
        browser.keys("coll", Keys.ENTER);
        browser.until(
                "only what fits is listed",
                () -> browser.driver()
                                .findElements(By.cssSelector("[role=row]"))
                                .size()
                        == 2);
    }

    @Test
    public void anythingIsFoundByName() {
        browser.keys(Keys.chord(Keys.CONTROL, "k"));
        browser.see(".ant-modal input").sendKeys("track");
        browser.seeText("Vanline Desk · VanlinePort");
        browser.keys(Keys.ENTER);
        browser.until("the operation is shown", () -> browser.location().startsWith("/contracts/"));
        browser.seeText("everything that happened on its way");
    }

    @Test
    public void theTableOfKeysOpensAndLiveIsUnmistakable() {
        browser.click(By.tagName("h1"));
        browser.keys("?");
        browser.seeText("call the service for the sample");
        browser.keys(Keys.ESCAPE);
        browser.until("the list is closed", () -> browser.driver()
                .findElements(By.cssSelector(".ant-modal-wrap:not([style*='display: none'])"))
                .isEmpty());
        browser.choose("Environment", "Live");
        browser.seeText("Run 240 in Live");
        browser.press("Run 240 in Live");
        browser.seeText("Run 240 in Live?");
        browser.press("Cancel");
        browser.choose("Environment", "Test");
        browser.seeText("Run 240 in Test");
    }

    @Test
    public void aSecondRunOfAFlowThatChangesDataIsAskedAbout() throws Exception {
        long flow = 0;
        for (JsonNode each : product.client().get("/api/flows").get("items")) {
            flow = each.get("name").asText().equals("Book transports")
                    ? each.get("id").asLong()
                    : flow;
        }
        world.knobs("vanline").latencyMillis = 3_000;
        try {
            JsonNode first = product.client()
                    .post("/api/flows/" + flow + "/runs", Map.of("environment", "Test", "confirmed", true));
            browser.open("/flows/" + flow + "?stage=call");
            browser.press("Run 109 in Test");
            browser.seeText("changes data at");
            browser.see(".ant-modal-confirm-btns .ant-btn-primary").click();
            browser.seeText("A run of this flow is not finished");
            browser.press("Start a second run");
            browser.until(
                    "the second run is shown",
                    () -> browser.location().matches(".*/runs/\\d+")
                            && !browser.location()
                                    .endsWith("/" + first.get("id").asLong()));
            for (JsonNode each : product.client().get("/api/runs").get("items")) {
                if (each.get("state").asText().equals("running")) {
                    product.client().post("/api/runs/" + each.get("id") + "/cancel", Map.of());
                }
            }
        } finally {
            world.knobs("vanline").latencyMillis = 0;
        }
    }

    @Test
    public void aTargetThatIsNotWrittenYetSaysSoOnOneLine() throws Exception {
        product.client().post("/api/datasets", Map.of("name", "never written", "kind", "csv"));
        browser.open("/datasets");
        WebElement said = browser.seeText("not written yet");
        double line = Double.parseDouble(said.getCssValue("line-height").replace("px", ""));
        assertTrue(
                said.getRect().getHeight() < 1.5 * line,
                "height " + said.getRect().getHeight());
    }

    @Test
    public void aTooltipOfARowLeavesTheRowBelowInSight() {
        WebElement name = browser.row("registrationNumber").findElement(By.xpath("./span[2]"));
        new org.openqa.selenium.interactions.Actions(browser.driver())
                .moveToElement(name)
                .perform();
        WebElement tip = browser.see(".ant-tooltip");
        browser.settle();
        int below = name.getRect().getY() + name.getRect().getHeight();
        assertTrue(
                tip.getRect().getY() + tip.getRect().getHeight() <= below,
                "the tooltip ends at " + tip.getRect().getY() + " + "
                        + tip.getRect().getHeight() + ", the row at " + below);
    }

    @Test
    public void aDraftThatCannotBeSavedIsSeenAndSavedOnceItCanBe() throws Exception {
        focus("purpose");
        product.kill();
        browser.keys(Keys.DELETE);
        browser.until(
                "the failure is seen", () -> browser.see("footer").getText().contains("Not saved"));
        product.start();
        saved();
        JsonNode kept = product.client().get("/api/flows/1").get("file");
        assertFalse(kept.toString().contains("purpose\""), kept.toString());
        browser.click(By.tagName("h1"));
        browser.keys(Keys.chord(Keys.CONTROL, "z"));
        browser.rowShows("purpose", "loan");
        saved();
    }
}
