package wirekettle.e2e;

import static org.testng.Assert.assertEquals;

import java.util.List;
import org.openqa.selenium.By;
import org.openqa.selenium.Keys;
import org.openqa.selenium.WebElement;
import org.testng.annotations.Test;

/** Replies made into records on the screen: columns taken, dropped, renamed and retyped, tables and documents. */
public class RecordMappingTest extends FlowEditing {
    @Test
    public void aRecordTakesTheColumnsOfItsDatasetAndAVariableItsNewNameEverywhere() {
        browser.open("/flows?new=1&dataset=loans&contract=Institution%20Register&service=InstitutionRegister"
                + "&port=RegisterPort&operation=LookUpInstitution");
        browser.seeText("Read records from");
        browser.see(".ant-modal input[placeholder='LookUpInstitution for loans']")
                .sendKeys("Checked again");
        browser.click(".ant-modal-footer .ant-btn-primary:not([disabled])");
        browser.seeText("LookUpInstitution request");
        browser.keys("3");
        browser.seeText("The record has no columns yet");
        browser.choose("Target dataset", "borrowers");
        browser.row("over_limit");
        browser.leaveField();
        browser.keys("s");
        browser.rowShows("city", "$reply/address/city");
        browser.press("Accept ");
        browser.until("what is proposed is taken", () -> !browser.text().contains("Accept "));
        browser.see("input[placeholder^='Find a column']").sendKeys("loan", Keys.ENTER);
        browser.until(
                "one column is found",
                () -> browser.driver()
                                .findElements(By.cssSelector("[role=row][data-target]"))
                                .size()
                        == 1);
        browser.rowShows("loan_no", "$loan/loan_no");
        browser.keys("1");
        WebElement name = browser.see("input.mono[value=loan], .ant-input-affix-wrapper.mono input");
        name.sendKeys(Keys.chord(Keys.CONTROL, "a"), "dispatch", Keys.TAB);
        browser.leaveField();
        browser.keys("3");
        browser.rowShows("loan_no", "$dispatch/loan_no");
        saved();
    }

    @Test
    public void xmlInsideAStringIsLearnedAndBecomesRowsOrADocument() {
        browser.open("/flows/3?stage=call");
        browser.seeText("ReadRoom request");
        side("Reply", 1);
        browser.see("[role=treeitem][data-path$='readings']").click();
        browser.press("holds a document: learn it");
        browser.seeText("XML learned from 3 kept texts");
        browser.see("[role=treeitem][data-path$='celsius']");
        browser.press("learn again");
        browser.seeText("Nothing new from 3 kept texts");
        browser.click(By.tagName("h1"));
        browser.keys("3");
        browser.press("Everything");
        browser.rowShows("celsius", "18.0");
        browser.see("[data-wire='$reply/readings/readings/reading/humidity']");
        saved();
        browser.press("Run 10 in Test");
        browser.seeText("10 of 10 records");
        browser.seeText("30 rows");
    }

    @Test
    public void oneReplyBecomesRelatedTablesInOneAction() {
        browser.open("/flows/2?stage=write");
        browser.seeText("booked_at");
        browser.click(".ant-dropdown-button .ant-dropdown-trigger, .ant-space-compact .ant-dropdown-trigger");
        browser.clickText("Related tables: a key made for each row");
        browser.row("status");
        assertEquals(stages(), 6, "a table more");
        browser.keys("5");
        browser.rowShows("booking_id", "a key for each $booking");
        browser.click(By.tagName("h1"));
        browser.keys(Keys.chord(Keys.CONTROL, "z"));
        browser.until("the table is gone again", () -> stages() == 5);
        saved();
    }

    private List<String> columns() {
        return browser.driver().findElements(By.cssSelector("[role=row][data-target]")).stream()
                .map(row -> row.getAttribute("data-target"))
                .toList();
    }

    @Test
    public void everythingIsTakenThenDroppedRenamedAndRetyped() {
        browser.open("/flows/1?stage=write");
        browser.rowShows("over_limit", "boolean");
        browser.click(By.tagName("h1"));
        int before = columns().size();
        focus("country");
        browser.pointAt("input[aria-label='Column name']");
        browser.click("button[title='drop the column']");
        browser.until(
                "the column is gone",
                () -> !columns().contains("country") && columns().size() == before - 1);
        focus("city");
        WebElement name = browser.see("input[aria-label='Column name']");
        name.sendKeys(Keys.chord(Keys.CONTROL, "a"), "town", Keys.TAB);
        browser.rowShows("town", "$borrower/address/city");
        browser.leaveField();
        browser.click(By.tagName("h1"));
        focus("borrower");
        browser.pointAt("input[aria-label='Column name']");
        browser.choose("Type of borrower", "integer");
        browser.until("a name is no whole number", () -> !problems().equals("0"));
        browser.press("Problems 1");
        browser.until("only what does not fit is left", () -> columns().equals(List.of("borrower")));
        saved();
        browser.leaveField();
        for (int i = 0; i < 3; i++) {
            browser.keys(Keys.chord(Keys.CONTROL, "z"));
        }
        browser.until("it is all as it was", () -> problems().equals("0"));
        browser.press("Problems 0");
        browser.until(
                "every column is back",
                () -> columns().size() == before
                        && columns().contains("country")
                        && columns().contains("city"));
        saved();
    }

    /** Returns how many stages the outline has. */
    private int stages() {
        return browser.driver()
                .findElements(By.cssSelector("ol[aria-label=Outline] button[class*=lineButton]"))
                .size();
    }
}
