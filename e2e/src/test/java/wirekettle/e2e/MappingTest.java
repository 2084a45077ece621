package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import org.openqa.selenium.By;
import org.openqa.selenium.Keys;
import org.openqa.selenium.WebElement;
import org.testng.annotations.Test;

/**
 * Requests filled on the screen: by keyboard, by suggestion, with repeats, documents, expressions, scripts, the
 * analyst's sheet.
 */
public class MappingTest extends FlowEditing {
    @Test
    public void aBookingWithItsCratesIsFilledByKeyboardAloneUntilEveryMessageIsValid() {
        newBooking("Booked by keyboard");
        groupByLoan();
        fill("}desk", "HC07");
        fill("}loanReference", "$loan/loan_no");
        fill("}collectFrom/{urn:halewick:vanline:2}name", "\"Halewick Crating\"");
        // the next rows follow by themselves: Enter keeps and moves down
        browser.keys(Keys.ARROW_DOWN);
        type("Halewick");
        fill("}deliverTo/{urn:halewick:vanline:2}name", "$loan/borrower");
        fill("}deliverTo/{urn:halewick:vanline:2}city", "tokenize($loan/borrower, ' ')[1]");
        fill("}collectOn", "$loan/collect_on");
        fill("}deliverWithinDays", "5");
        fill("}crate", "$loan/line");
        browser.rowShows("}crate", "each $loan/line");
        fill("}crate/{urn:halewick:vanline:2}number", "$line/crate_no");
        fill("}crate/{urn:halewick:vanline:2}grossKilograms", "$line/gross_kg");
        focus("}collectOn");
        browser.rowShows("}collectOn", "read 11.12.2026");
        browser.keys("f");
        browser.rowShows("}collectOn", "2026-12-11");
        focus("}grossKilograms");
        browser.rowShows("}grossKilograms", "read ");
        browser.keys("f");
        browser.rowShows("}grossKilograms", "decimal comma");
        browser.until(
                "every message is valid",
                () -> browser.see("[aria-label=proof]").getText().contains("50 of 50 messages valid"));
        browser.rowShows("}crate", "3×");
        browser.until("only the Write stage has problems", () -> problems().equals("2"));
        saved();
    }

    @Test
    public void aListIsBoundBySuggestionAndItsFieldsFollowThroughAReload() {
        newBooking("Booked by suggestion");
        groupByLoan();
        browser.keys("s");
        browser.until("the list is proposed", () -> browser.text().contains("Suggest 9"));
        focus("}crate/{urn:halewick:vanline:2}number");
        browser.rowShows("}crate/{urn:halewick:vanline:2}number", "$line/crate_no");
        // what is inside the list takes the list along
        browser.keys(Keys.TAB);
        browser.rowShows("}crate", "each $loan/line");
        browser.rowShows("}crate", "3×");
        saved();
        browser.press("Accept 7");
        browser.rowShows("}grossKilograms", "138.3");
        browser.see("[data-wire='$loan/loan_no']");
        focus("}grossKilograms");
        browser.see("[data-wire='$line/gross_kg']");
        saved();
        // a long list of sources is searched by name or value
        WebElement find = browser.see("input[aria-label='Find a source']");
        find.sendKeys("gross");
        browser.until(
                "only what has it is left", () -> browser.driver().findElements(By.cssSelector("[data-wire]")).stream()
                        .allMatch(e -> e.getText().contains("gross")));
        find.sendKeys(Keys.chord(Keys.CONTROL, "a"), Keys.BACK_SPACE, Keys.ENTER);
        browser.see("[data-wire='$loan/borrower']");
        // undo goes back beyond what was done since the page was opened
        browser.driver().navigate().refresh();
        browser.rowShows("}grossKilograms", "138.3");
        browser.click(By.tagName("h1"));
        browser.keys(Keys.chord(Keys.CONTROL, "z"));
        browser.until(
                "one list and its number are left",
                () -> !browser.row("}grossKilograms").getText().contains("138.3")
                        && browser.row("}crate").getText().contains("each $loan/line"));
        browser.keys(Keys.chord(Keys.CONTROL, "y"));
        browser.rowShows("}grossKilograms", "138.3");
        saved();
    }

    @Test
    public void aRepeatIsFilteredOrderedAndConditionedInItsOptions() {
        browser.open("/flows/2?stage=call");
        browser.seeText("50 rows");
        browser.rowShows("}crate", "3×");
        focus("}crate");
        browser.keys("o");
        option("Only where").sendKeys("$crate/climate != nothing()");
        browser.until(
                "what is wrong is told while it is typed",
                () -> browser.see("[aria-label=expression]").getText().contains("there is no function nothing()"));
        option("Only where").sendKeys(Keys.chord(Keys.CONTROL, "a"), "$crate/climate != 'A'", Keys.TAB);
        browser.until(
                "the crates of class A are out",
                () -> !browser.row("}crate").getText().contains("3×"));
        browser.keys(Keys.ESCAPE);
        focus("}crate/{urn:halewick:vanline:2}climate");
        browser.keys("o");
        option("Remark").sendKeys("as the service names them", Keys.TAB);
        browser.keys(Keys.ESCAPE);
        browser.click(By.tagName("h1"));
        // what is copied is pasted with everything it says
        focus("}crate/{urn:halewick:vanline:2}climate");
        browser.keys(Keys.chord(Keys.CONTROL, "c"));
        focus("}remark");
        browser.keys(Keys.chord(Keys.CONTROL, "v"));
        browser.rowShows("}remark", "in climate classes");
        saved();
        for (int i = 0; i < 3; i++) {
            browser.keys(Keys.chord(Keys.CONTROL, "z"));
        }
        browser.rowShows("}crate", "3×");
        saved();
    }

    @Test
    public void anExpressionIsUnderlinedWhereItIsWrongAndMendedWhereItIsNotCast() {
        browser.open("/flows/1?stage=call");
        browser.seeText("50 rows");
        focus("}loanReference");
        browser.keys(Keys.ENTER);
        WebElement cell = browser.see("[role=row] input[aria-label=Fill]");
        cell.sendKeys(Keys.chord(Keys.CONTROL, "a"), "concat($loan/loan_no, nothing())");
        browser.until(
                "the wrong part is underlined", () -> browser
                        .driver()
                        .findElements(By.cssSelector("[role=status][aria-label=expression] [class*=wrongPart]"))
                        .stream()
                        .anyMatch(e -> e.getText().contains("nothing")));
        cell.sendKeys(Keys.chord(Keys.CONTROL, "a"), "if ($loan/length_cm gt '99') then 'long' else 'short'");
        browser.until(
                "the value stands beside it: texts are compared",
                () -> browser.see("[aria-label=expression]").getText().contains("= short"));
        browser.seeText("is compared as text");
        browser.press("write xs:integer($loan/length_cm)");
        browser.until(
                "the cast is there",
                () -> browser.see("[aria-label=expression]").getText().contains("xs:integer($loan/length_cm) gt '99'"));
        // a function is completed with what it gives
        browser.see("[role=row] input[aria-label=Fill]").sendKeys(Keys.chord(Keys.CONTROL, "a"), "normal");
        browser.seeText("without outer spaces, single spaces inside");
        browser.keys(Keys.ESCAPE);
    }

    @Test
    public void aScriptMakesTheMessageAndAWholeSubtreeIsWiredWithItsDifferences() {
        newBooking("Booked by script");
        // a stage is added behind the one that is chosen
        browser.click(By.tagName("h1"));
        browser.keys("1");
        browser.seeText("1 · Read");
        browser.click(By.tagName("h1"));
        browser.keys("a");
        browser.see("[aria-label='Find a verb']").sendKeys("xquery", Keys.ENTER);
        browser.click(By.xpath("//*[contains(@class,'ant-segmented-item-label') and @title='XQuery 3.1']"));
        browser.press("Start with an example");
        WebElement script = browser.see("textarea[aria-label=Script]");
        script.sendKeys(
                Keys.chord(Keys.CONTROL, "a"),
                "<to><name>{string($loan/borrower)}</name><city>Halewick</city><odd>1</odd></to>");
        browser.until(
                "what it makes is shown",
                () -> browser.see("pre[aria-label=made]").getText().contains("<city>Halewick</city>"));
        script.sendKeys(Keys.END, "{");
        browser.until(
                "what is wrong is told with its line", () -> browser.text().contains("line 1:"));
        script.sendKeys(Keys.BACK_SPACE);
        browser.until("it is sound again", () -> !browser.text().contains("line 1:"));
        browser.click(By.tagName("h1"));
        browser.keys("3");
        browser.seeText("BookTransport request");
        browser.see("[data-wire='$made/name']");
        focus("}deliverTo");
        type("$made");
        browser.seeText("of the source, with no place to go:");
        browser.seeText("odd");
        browser.press("Fill 2 fields");
        browser.rowShows("}deliverTo", "all of $made");
        browser.rowShows("}deliverTo/{urn:halewick:vanline:2}city", "Halewick");
        saved();
    }

    @Test
    public void aMappingSheetComesInAsProposalsThatAreAcceptedTogether() throws Exception {
        newBooking("Booked by sheet");
        String sheet = "Target field;Source field;Rule;Remark\nloanReference;loan_no;;\n"
                + "collectOn;collect_on;date dd.MM.yyyy;as on the form\nBookTransport/remark;remark;cut to 30;\n"
                + "deliverWithinDays;\"5\";;\nwheels;loan_no;;\n";
        takesIn(sheet);
        browser.seeText("4 of 5 lines propose a fill");
        browser.seeText("is no field of this message");
        confirmed("OK");
        browser.press("Accept 4");
        browser.rowShows("}collectOn", "2026-12-11");
        browser.keys(Keys.END);
        browser.rowShows("}remark", "cut to 30");
        saved();
    }

    @Test
    public void aCodeTableIsTypedInAndUsed() {
        browser.open("/settings?tab=codes");
        browser.press("Add a code table");
        browser.see(".ant-modal input[aria-label=Name]").sendKeys("purposes", Keys.ENTER);
        browser.press("Add a code");
        browser.see("input[aria-label='code 1']").sendKeys("A");
        browser.see("input[aria-label='value 1']").sendKeys("storage");
        browser.press("Save");
        browser.seeText("version 2");
        browser.open("/flows/1?stage=call");
        browser.seeText("50 rows");
        focus("}purpose");
        type("$loan/climate");
        focus("}purpose");
        browser.rowShows("}purpose", "not one of");
        browser.keys("o");
        browser.choose("Code table", "purposes");
        browser.keys(Keys.ESCAPE);
        browser.rowShows("}purpose", "storage");
        browser.until("codes that are not in it are problems", () -> !problems().equals("0"));
        browser.click("button.chip.caution");
        browser.seeText("purpose does not fit for");
        saved();
        browser.click(By.tagName("h1"));
        browser.keys(Keys.chord(Keys.CONTROL, "z"));
        browser.keys(Keys.chord(Keys.CONTROL, "z"));
        browser.rowShows("}purpose", "\"loan\"");
        saved();
    }

    @Test
    public void whatCountsAsSamplesIsChosenAndAllRowsAreProvedInTheBackground() {
        browser.open("/flows/1?stage=call");
        browser.until(
                "fifty are valid",
                () -> browser.see("[aria-label=proof]").getText().contains("50 of 50 messages valid"));
        browser.choose("Samples", "all 240");
        browser.until(
                "three of all are not",
                () -> browser.see("[aria-label=proof]").getText().contains("3 of 240 not valid"));
        browser.until("the coverage is that of all", () -> browser.row("}registrationNumber")
                .findElement(By.cssSelector("[role=img]"))
                .getAttribute("aria-label")
                .equals("237 fine, 0 empty, 3 invalid"));
        browser.row("}registrationNumber")
                .findElement(By.cssSelector("button [role=img]"))
                .click();
        browser.seeText("3 of 240 do not fit");
        browser.seeText("RG-10437-ALDERSUND-WEST");
        browser.leaveField();
        browser.press("3 of 240 not valid");
        browser.press("record 52");
        browser.until("that record is shown", () -> browser.see("input[aria-label='sample record']")
                .getAttribute("value")
                .equals("52"));
        browser.rowShows("}registrationNumber", "23 characters");
        assertEquals(problems(), "0", "the header counts what the first fifty show");
        assertTrue(browser.text().contains("ready"));
    }

    @Test
    public void theKindOfAPaperIsDecidedForEachRecordByAConditionInTheRow() {
        browser.open("/flows?new=1&dataset=loans&contract=Loan%20Clearance&service=LoanClearance"
                + "&port=ClearancePort&operation=SubmitDocument");
        browser.seeText("Read records from");
        browser.click(".ant-modal-footer .ant-btn-primary:not([disabled])");
        browser.seeText("SubmitDocument request");
        focus("}document");
        browser.choose("Pick for document", "ConditionReport");
        focus("ConditionReport");
        browser.seeText("or");
        browser.script(
                "document.querySelector('[role=row][aria-selected=true] span[title^=another] .ant-select').id = 'another'");
        browser.click("#another");
        browser.settle();
        browser.until("the other kind is there", () -> browser
                .driver()
                .findElements(
                        By.cssSelector(".ant-select-dropdown:not(.ant-select-dropdown-hidden) .ant-select-item-option"))
                .stream()
                .filter(o -> o.getText().contains("LoanAgreement"))
                .findFirst()
                .map(o -> {
                    o.click();
                    return true;
                })
                .orElse(false));
        browser.row("LoanAgreement");
        browser.until("two without a condition are a problem", () -> browser.text()
                .contains("is picked beside another for the same place"));
        focus("LoanAgreement");
        browser.keys("o");
        option("Only when").sendKeys("$loan/climate = 'A'", Keys.TAB);
        browser.keys(Keys.ESCAPE);
        browser.until("one has its condition, the other is for the rest", () -> !browser.text()
                .contains("is picked beside another for the same place"));
        browser.until(
                "record 1 sends an agreement",
                () -> browser.see("pre[aria-label=message]").getText().contains("LoanAgreement"));
        browser.click(By.tagName("h1"));
        browser.keys("]");
        browser.until(
                "record 2 sends a report",
                () -> browser.see("pre[aria-label=message]").getText().contains("ConditionReport"));
        saved();
    }

    @Test
    public void aTextOfTheRequestIsFilledAsASheetOfItsOwn() {
        newBooking("Booked with a note");
        browser.keys(Keys.END);
        browser.press("a document …");
        browser.see("textarea[aria-label=Example]").sendKeys("<note><object/><weight>4.5</weight></note>");
        browser.press("Fill it as a sheet");
        focus("/note/weight");
        type("$loan/gross_kg");
        browser.rowShows("/note/weight", "read ");
        browser.keys("f");
        browser.until("the note stands in the field as text", () -> browser.see("pre[aria-label=message]")
                .getText()
                .replace("&gt;", ">")
                .contains("<n1:remark>&lt;note>"));
        saved();
    }
}
