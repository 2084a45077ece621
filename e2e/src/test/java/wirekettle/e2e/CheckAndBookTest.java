package wirekettle.e2e;

import java.util.List;
import org.openqa.selenium.By;
import org.openqa.selenium.Keys;
import org.openqa.selenium.WebElement;
import org.testng.annotations.Test;

/** The demo's flow of loans checked and booked, built from nothing by keyboard alone, does what the demo's own does. */
public class CheckAndBookTest extends KeyboardBuilding {
    private static final String SUM =
            "sum($loan/line/number(translate(translate(insured_value, '.', ''), ',', '.'))[. = .])";

    private boolean keptHere() {
        return browser.see("footer").getText().contains("Reply kept");
    }

    /** The way the sample takes at the first Branch, as the outline marks it. */
    private String wayTaken() {
        List<WebElement> taken =
                browser.driver().findElements(By.cssSelector("ol[aria-label=Outline] [class*=wayTaken]"));
        return taken.isEmpty() ? "" : taken.get(0).getText();
    }

    @Test
    public void theDemosFlowIsBuiltFromNothingByKeyboard() throws Exception {
        build("Checked and booked by key", "loans", "Institution Register", "LookUpInstitution");

        read();
        fields();
        pick("Business key", "institution_no");
        pick("Grouped by", "loan_no");
        fields();
        tabTo("one after the other per key");
        browser.keys(Keys.SPACE);
        browser.leaveField();
        browser.seeText("N → 1");
        add("leaves the others out");
        into("Goes on when", "normalize-space($loan/institution_no) != ''");
        into("Left out as", "no registration number");

        line("Call LookUpInstitution");
        browser.seeText("LookUpInstitution request");
        fill("registrationNumber", "$loan/institution_no");
        fill("requestedBy", "HALEWICK");
        fill("purpose", "loan");
        condition("$reply/status = 'suspended'", "institution suspended");
        browser.leaveField();
        browser.keys(Keys.chord(Keys.CONTROL, Keys.ENTER));
        browser.seeText("Answered and kept");

        line("Call LookUpInstitution");
        add("one of several ways");
        into("Name of way 1", "insured for 1.5 million or more");
        into("Condition of way 1", SUM + " ge 1500000");
        line("insured for 1.5 million");
        write(
                "loans to insure",
                "loan_no",
                "$loan/loan_no",
                "borrower",
                "$reply/name",
                "insured_value",
                "xs:decimal(round(" + SUM + "))");

        // a sample that goes the other way, so that its values are seen there
        line("Call LookUpInstitution");
        for (int i = 0; i < 8 && !wayTaken().startsWith("otherwise"); i++) {
            browser.keys("]");
            browser.until("the next sample is shown", () -> !keptHere());
            browser.keys(Keys.chord(Keys.CONTROL, Keys.ENTER));
            browser.until("its reply is kept", this::keptHere);
        }
        line("otherwise");
        add("Calls an operation");
        pick("Contract", "Vanline Desk");
        pick("Operation", "BookTransport");
        browser.leaveField();
        browser.seeText("BookTransport request");
        browser.until("the lines of a loan are in reach", () -> !browser.driver()
                .findElements(By.cssSelector("[data-wire='$loan/line/crate_no']"))
                .isEmpty());
        fill("}desk", "HC07");
        fill("}requestedBy", "night desk");
        fill("}loanReference", "$loan/loan_no");
        fill("}collectFrom/{urn:halewick:vanline:2}name", "\"Halewick Crating\"");
        fill("}collectFrom/{urn:halewick:vanline:2}street", "\"Quay 4\"");
        fill("}collectFrom/{urn:halewick:vanline:2}city", "Halewick");
        fill("}deliverTo/{urn:halewick:vanline:2}name", "substring($reply/name, 1, 40)");
        fill("}deliverTo/{urn:halewick:vanline:2}street", "$reply/address/street");
        fill("}deliverTo/{urn:halewick:vanline:2}city", "$reply/address/city");
        fill("}collectOn", "$loan/collect_on");
        fill(
                "}deliverWithinDays",
                "if (count($loan/line) ge 4) then 30 else"
                        + " if ($loan/remark = 'Tilt indicator, two handlers, side door only') then 1 else 5");
        fill("}crate", "$loan/line");
        fill("}crate/{urn:halewick:vanline:2}number", "$line/crate_no");
        fill("}grossKilograms", "$line/gross_kg");
        fill("}size/@length", "$line/length_cm");
        fill("}crate/{urn:halewick:vanline:2}climate", "$line/climate");
        fill("}insured", "$line/insured_value");
        fill("}content/{urn:halewick:vanline:2}object", "$line/object");
        fill("}remark", "$loan/remark");
        for (String each : List.of("}collectOn", "}grossKilograms", "}insured")) {
            focus(each);
            browser.rowShows(each, "read ");
            browser.keys("f");
        }
        focus("}crate/{urn:halewick:vanline:2}climate");
        browser.keys("o");
        pick("Code table", "climate classes");
        browser.keys(Keys.ESCAPE);
        condition("$reply2/status != 'booked'", "not booked");
        browser.leaveField();
        browser.keys("p");
        browser.seeText("Calls at once");
        fields();
        into("Milliseconds to the first byte", "3000");
        into("Milliseconds for the whole call", "6000");
        saved();
        browser.leaveField();

        add("run stages and go on");
        pick("Counts for", "fault");
        browser.keys("counts");
        browser.keys(Keys.ENTER);
        browser.leaveField();
        write(
                "loans to book by hand",
                "loan_no",
                "$loan/loan_no",
                "borrower",
                "$reply/name",
                "why",
                "$failure/message");

        line("Call BookTransport");
        add("one of several ways");
        into("Name of way 1", "the desk took it");
        into("Condition of way 1", "$reply2/status = 'booked'");
        line("the desk took it");
        write("loans booked", "loan_no", "$loan/loan_no", "reference", "$reply2/reference", "status", "$reply2/status");

        line("Write nowhere yet");
        fields();
        target(
                "loans checked",
                "loan_no",
                "$loan/loan_no",
                "borrower",
                "$reply/name",
                "city",
                "$reply/address/city",
                "transport",
                "$reply2/reference");
        add("fails at any stage");
        browser.seeText("fault_code");
        fields();
        pick("Target dataset", "loans rejected");
        browser.leaveField();
        saved();
        browser.seeText("ready");

        runsAsTheDemos("Checked and booked by key", "BookTransport", "Check and book");
    }
}
