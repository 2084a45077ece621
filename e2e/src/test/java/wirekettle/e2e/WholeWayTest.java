package wirekettle.e2e;

import java.util.List;
import org.openqa.selenium.By;
import org.openqa.selenium.Keys;
import org.testng.annotations.Test;

/**
 * The demo's flow that books loans the whole way, built from nothing by keyboard alone: a day opened before and closed
 * after, a crate at a time, taken back when one is refused, a number of a series.
 */
public class WholeWayTest extends KeyboardBuilding {
    private static final String DESK = "Vanline Desk in a session";

    /** Says how the call that is chosen reaches its service. */
    private void delivered(String atOnce) {
        browser.leaveField();
        for (String before : List.of("Request", "Reply")) {
            if (sideShown().equals(before)) {
                browser.keys("p");
                browser.until("another side is shown", () -> !sideShown().equals(before));
            }
        }
        browser.seeText("Calls at once");
        fields();
        pick("Endpoint", DESK);
        if (atOnce != null) {
            into("Calls at once", atOnce);
            into("Milliseconds to the first byte", "3000");
            into("Milliseconds for the whole call", "6000");
        }
        saved();
        browser.leaveField();
    }

    /** The side of the call that is shown: Request, Reply or Delivery. */
    private String sideShown() {
        return browser.see("[aria-label='Side of the call'] .ant-segmented-item-selected")
                .getText();
    }

    @Test
    public void theDemosFlowIsBuiltFromNothingByKeyboard() throws Exception {
        build("Booked whole by key", "loans", "Vanline Desk", "BookCrate");

        loansOfKnownInstitutions();

        // the call moves into what is done for each crate
        add("for each item of a repeated field");
        pick("Items", "$loan/line");
        into("Item variable", "crate");
        into("Gathered variable", "crates");
        alternative("take it back and reject");
        saved();
        line("Call BookCrate");
        browser.keys(Keys.chord(Keys.ALT, Keys.ARROW_UP));
        browser.until(
                "it stands in the Split", () -> browser.see("h2").getText().startsWith("3.1"));
        browser.until("a crate is in reach", () -> !browser.driver()
                .findElements(By.cssSelector("[data-wire='$crate/crate_no']"))
                .isEmpty());
        fill("}desk", "HC07");
        fill("}loanReference", "$loan/loan_no");
        fill("}number", "$crate/crate_no");
        fill("}grossKilograms", "$crate/gross_kg");
        fill("}climate", "$crate/climate");
        fill("}object", "$crate/object");
        focus("}grossKilograms");
        browser.rowShows("}grossKilograms", "read ");
        browser.keys("f");
        delivered("8");

        line("Call BookCrate");
        add("Takes BookCrate back");
        pick("Operation", "CancelCrate");
        browser.leaveField();
        browser.seeText("CancelCrate request");
        fill("}desk", "HC07");
        fill("}label", "$reply/label");
        fill("}reason", "substring($failure/cause, 1, 80)");
        condition("$undone/status != 'cancelled'", "not cancelled");
        delivered("4");

        line("gathered as $crates");
        add("Makes a record by fills");
        browser.leaveField();
        column("transport_no", "next of transport papers");
        saved();
        line("Write nowhere yet");
        fields();
        target(
                "loans booked by crate",
                "loan_no",
                "$loan/loan_no",
                "transport_no",
                "$made/transport_no",
                "crates",
                "count($crates/item)",
                "labels",
                "string-join($crates/item/reply/label, ' ')");
        add("fails at any stage");
        browser.leaveField();
        fields();
        pick("Target dataset", "loans not booked");
        browser.leaveField();
        saved();

        add("what it makes is in reach of all records");
        pick("Contract", "Vanline Desk");
        pick("Operation", "OpenDay");
        browser.leaveField();
        browser.seeText("OpenDay request");
        fill("}desk", "HC07");
        delivered(null);
        add("with what the run has come to");
        pick("Contract", "Vanline Desk");
        pick("Operation", "CloseDay");
        browser.leaveField();
        browser.seeText("CloseDay request");
        fill("}day", "$reply2/day");
        delivered(null);
        line("after the last record");
        fields();
        for (String each : new String[] {"that failed or was stopped", "that was cancelled"}) {
            tabTo(each);
            browser.keys(Keys.SPACE);
        }
        tabTo("Add a sum");
        browser.keys(Keys.ENTER);
        into("Sum", "crates");
        into("Sum of", "count($crates/item)");
        saved();
        line("Call CloseDay");
        fill("}loans", "$run/done");
        fill("}crates", "$run/sums/crates/done");
        saved();
        browser.seeText("ready");
        runsAsTheDemos("Booked whole by key", "BookCrate", "Book loans, whole way");
    }
}
