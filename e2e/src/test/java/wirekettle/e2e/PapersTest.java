package wirekettle.e2e;

import org.openqa.selenium.By;
import org.openqa.selenium.Keys;
import org.testng.annotations.Test;

/** The demo's flow that clears papers in batches, built from nothing by keyboard alone. */
public class PapersTest extends KeyboardBuilding {
    @Test
    public void theDemosFlowIsBuiltFromNothingByKeyboard() throws Exception {
        build("Cleared by key", "loans", "Loan Clearance", "SubmitPapers");

        loansOfKnownInstitutions();

        // the call moves into what records do together
        add("several records go through stages together");
        into("Records", "40");
        into("Bytes", "16000");
        into("Seconds", "2");
        into("Batch variable", "papers");
        tabTo("Halve it");
        browser.keys(Keys.SPACE);
        saved();
        line("Call SubmitPapers");
        browser.keys(Keys.chord(Keys.ALT, Keys.ARROW_UP));
        browser.until(
                "it stands in the Batch", () -> browser.see("h2").getText().startsWith("3.1"));
        browser.until("the batch is in reach", () -> !browser.driver()
                .findElements(By.cssSelector("[data-wire='$papers/item']"))
                .isEmpty());
        fill("}ticket", "HC-CLEAR");
        fill("}paper", "$papers/item");
        fill("}reference", "$item/loan/loan_no");
        fill("}kind", "agreement");
        fill("}value", "$item/loan/insured_value");
        focus("}value");
        browser.rowShows("}value", "read ");
        browser.keys("f");
        browser.leaveField();
        browser.keys(Keys.chord(Keys.CONTROL, Keys.ENTER));
        browser.seeText("Really call");
        browser.settle();
        browser.keys(Keys.ENTER);
        browser.seeText("Answered and kept");
        browser.settle();

        line("each with $verdict");
        fields();
        pick("Lines", "$reply/paper");
        alternative("has the same key");
        into("Key of the record", "$item/loan/loan_no");
        into("Key of the line", "$line/reference");
        into("Accepted when", "$line/outcome = 'accepted'");
        into("Reason", "$line/code");
        saved();

        line("Batch");
        add("run stages and reject");
        browser.leaveField();
        write("papers refused", "loan_no", "$loan/loan_no", "value", "$loan/insured_value", "why", "$failure/cause");
        line("Write nowhere yet");
        fields();
        target("papers cleared", "loan_no", "$loan/loan_no", "clearance", "$verdict/line/clearanceNumber");
        browser.seeText("ready");
        runsAsTheDemos("Cleared by key", "SubmitPapers", "Clear papers in batches");
    }
}
