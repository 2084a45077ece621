package wirekettle.e2e;

import static org.testng.Assert.assertEquals;

import java.util.List;
import org.openqa.selenium.By;
import org.openqa.selenium.Keys;
import org.openqa.selenium.WebElement;
import org.testng.annotations.Test;

/** A flow with a filter, ways and a lane: built by key, tried against a fault that is only supposed, run, paused. */
public class OutlinePageTest extends FlowEditing {
    private static final By LINES = By.cssSelector("ol[aria-label=Outline] button[class*=lineButton] b");

    private List<String> verbs() {
        return browser.driver().findElements(LINES).stream()
                .map(WebElement::getText)
                .toList();
    }

    private void outlineIs(String... verbs) {
        browser.until("the outline is as expected", () -> verbs().equals(List.of(verbs)));
    }

    private void condition(String label, String text) {
        browser.see("textarea[aria-label='" + label + "']").sendKeys(text, Keys.ENTER);
        saved();
    }

    private void checkLoans(String name) {
        browser.open("/flows?new=1&dataset=loans&contract=Institution%20Register&service=InstitutionRegister"
                + "&port=RegisterPort&operation=LookUpInstitution");
        browser.seeText("Read records from");
        browser.see(".ant-modal input[placeholder='LookUpInstitution for loans']")
                .sendKeys(name);
        browser.click(".ant-modal-footer .ant-btn-primary:not([disabled])");
        browser.seeText("LookUpInstitution request");
        browser.seeText("50 rows");
        fill("registrationNumber", "$loan/institution_no");
        fill("requestedBy", "HALEWICK");
        fill("purpose", "loan");
        saved();
        browser.click(By.tagName("h1"));
    }

    @Test
    public void anOutlineIsBuiltByKeyAndASupposedFaultShowsWhatItsLaneDoes() {
        checkLoans("Screen loans");
        outlineIs("Read", "Call", "Write");
        browser.keys("1");
        browser.seeText("One record is");
        add("leaves the others out");
        outlineIs("Read", "Filter", "Call", "Write");
        condition("Goes on when", "$loan/crate_no != ''");
        browser.seeText("goes on");
        browser.keys("3");
        browser.seeText("LookUpInstitution request");
        add("one of several ways");
        outlineIs("Read", "Filter", "Call", "Branch", "Write");
        condition("Condition of way 1", "$reply/status = 'suspended'");

        // the sample's way ends where nothing is known yet, until the service has been asked
        browser.keys("3");
        browser.seeText("LookUpInstitution request");
        side("Way", 1);
        browser.seeText("Nothing is kept of that call for this record");
        browser.click(By.tagName("h1"));
        browser.keys(Keys.chord(Keys.CONTROL, Keys.ENTER));
        browser.until("the sample comes further", () -> browser.see("ol[aria-label='Way of the sample']")
                .getText()
                .contains("otherwise"));
        browser.choose("Suppose LookUpInstitution", "a fault");
        browser.seeText("The sample is rejected");
        browser.press("Add a rule");
        browser.clickText("run stages and go on");
        browser.seeText("fails");
        browser.until("the lane catches it", () -> !browser.text().contains("The sample is rejected"));

        browser.click(By.tagName("h1"));
        browser.keys(Keys.chord(Keys.CONTROL, "z"));
        browser.seeText("The sample is rejected");
        browser.keys(Keys.chord(Keys.CONTROL, "z"), Keys.chord(Keys.CONTROL, "z"));
        outlineIs("Read", "Filter", "Call", "Write");
        browser.keys(Keys.chord(Keys.CONTROL, "y"));
        outlineIs("Read", "Filter", "Call", "Branch", "Write");
        saved();
    }

    /** The value that a lane uses instead of a reply has all the aids a record has. */
    @Test
    public void aValueForAReplyIsFilledWithEveryAid() throws Exception {
        checkLoans("Screen with a value");
        browser.keys("2");
        browser.seeText("LookUpInstitution request");
        side("Way", 1);
        browser.choose("Suppose LookUpInstitution", "a fault");
        browser.press("Add a rule");
        browser.clickText("use a value for $reply and go on");
        browser.seeText("Counts for");
        for (String column : List.of("loan_no", "cause", "status")) {
            browser.click(By.tagName("h2"));
            browser.keys("c");
            browser.see("input[aria-label='Column name']:focus").sendKeys(column, Keys.ENTER);
            browser.until("the column is there", () -> inFocus().equals(column));
        }
        saved();
        takesIn("Target field;Source field;Rule;Remark\nstatus;always unknown;;nobody asked\nwheels;loan_no;;\n");
        browser.seeText("1 of 2 lines propose a fill");
        browser.seeText("is no column of this record");
        confirmed("OK");
        browser.press("Accept 1");
        browser.rowShows("status", "unknown");
        browser.click(By.tagName("h2"));
        browser.keys("s");
        browser.until("the others are proposed", () -> browser.text().contains("Suggest 2"));
        browser.press("Accept 2");
        browser.rowShows("cause", "a supposed fault");
        browser.rowShows("loan_no", "HC-20481");
        saved();
    }

    /** The demo's flow of crates: another crate of the sample is looked at, and a call is taken back by key. */
    @Test
    public void aSplitShowsAnyOfItsItemsAndAChangeIsGivenAnUndoByKey() {
        browser.open("/flows/6?stage=book");
        browser.seeText("BookCrate request");
        browser.rowShows("}number", "HC-20481-1");
        browser.click(By.cssSelector("[aria-label='next crate']"));
        browser.rowShows("}number", "HC-20481-2");
        assertEquals(browser.see("input[aria-label='sample crate']").getAttribute("value"), "2");
        browser.click(By.cssSelector("[aria-label='next record']"));
        browser.rowShows("}number", "HC-20482-1");

        // what is gathered gets a shape of its own, filled as any record
        browser.clickText("gathered as $crates");
        browser.seeText("4 · Gather");
        browser.click(By.tagName("h2"));
        browser.keys("c");
        browser.see("input[aria-label='Column name']:focus").sendKeys("crate_count", Keys.ENTER);
        browser.until("the column is there", () -> inFocus().equals("crate_count"));
        type("count($crates/item)");
        browser.rowShows("crate_count", "count($crates/item)");
        browser.seeText("only this is kept as $crates");
        saved();

        newBooking("Booked and taken back");
        browser.click(By.tagName("h1"));
        add("Takes BookTransport back");
        browser.seeText("to take it back");
        assertEquals(verbs(), List.of("Read", "Call", "Call", "Write"));
        browser.choose("Operation", "CancelCrate");
        browser.seeText("CancelCrate request");
        browser.seeText("$failure");
        browser.until(
                "what takes back cannot be taken back", () -> !browser.text().contains("Take it back"));
        saved();
        browser.click(By.tagName("h1"));
        browser.keys(Keys.chord(Keys.SHIFT, Keys.DELETE));
        browser.until("it is gone", () -> verbs().equals(List.of("Read", "Call", "Write")));
        browser.keys(Keys.chord(Keys.CONTROL, "z"));
        browser.until("it is there again", () -> verbs().size() == 4);
        saved();
    }

    @Test
    public void aStageMovesIntoAWayAndOutByKeyAndIsDuplicatedAndRemoved() {
        browser.open("/flows/4?stage=checked");
        browser.seeText("loans checked");
        List<String> before = verbs();
        browser.click(By.tagName("h1"));
        browser.keys(Keys.chord(Keys.ALT, Keys.ARROW_UP));
        browser.until(
                "it stands in the last way", () -> browser.see("h2").getText().startsWith("5.2."));
        browser.keys(Keys.chord(Keys.ALT, Keys.ARROW_DOWN));
        browser.until(
                "it stands behind the branch", () -> browser.see("h2").getText().startsWith("6 "));
        browser.keys("d");
        browser.until("there is another", () -> verbs().size() == before.size() + 1);
        browser.keys(Keys.chord(Keys.SHIFT, Keys.DELETE));
        browser.until("it is gone again", () -> verbs().equals(before));
        saved();
    }

    @Test
    public void whatWasRejectedIsSentAgainFromTheRunsPage() {
        browser.open("/runs/1");
        browser.press("Send 10 again");
        browser.seeText("Send 10 records again in Test?");
        browser.click(".ant-modal .ant-btn-primary");
        browser.seeText("sends again what failed in run 1");
        browser.seeText("10 of 10 records");
        browser.open("/runs/1");
        browser.seeText("240 of 240 records");
        assertEquals(
                browser.driver()
                        .findElements(By.xpath("//button[contains(., 'again')]"))
                        .size(),
                0);
    }

    @Test
    public void aRunIsPausedAndGoesOnWhereItWas() {
        world.registerKnobs().latencyMillis = 400;
        browser.open("/flows/1");
        browser.press("Run 240 in Test");
        browser.press("Pause");
        browser.seeText("Resume continues where the run was");
        world.registerKnobs().latencyMillis = 0;
        browser.press("Resume");
        browser.seeText("240 of 240 records");
        browser.until(
                "the run is done",
                () -> browser.see("h1 + .chip, .chip").getText().equals("done"));
        assertEquals(
                browser.driver().findElements(By.xpath("//button[.='Pause']")).size(), 0);
    }
}
