package wirekettle.e2e;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import org.openqa.selenium.By;
import org.openqa.selenium.Keys;
import org.openqa.selenium.WebElement;
import org.testng.annotations.BeforeClass;

/** Flows edited on the screen of a product with the demo's data, by keys wherever they do. */
abstract class FlowEditing extends BrowserTest {
    @BeforeClass
    public void start() throws Exception {
        begin("-Xmx512m", true);
        browser.signIn("ada", product.password());
    }

    /** Opens a fresh flow that books transports of loans, grouped or not. */
    void newBooking(String name) {
        browser.open("/flows?new=1&dataset=loans&contract=Vanline%20Desk&service=VanlineDesk"
                + "&port=VanlinePort&operation=BookTransport");
        browser.seeText("Read records from");
        browser.see(".ant-modal input[placeholder='BookTransport for loans']").sendKeys(name);
        browser.click(".ant-modal-footer .ant-btn-primary:not([disabled])");
        browser.seeText("BookTransport request");
        browser.seeText("50 rows");
    }

    /** Goes to a row by the arrow keys alone: down from where the focus is, then from the first row. */
    void focus(String field) {
        String before = null;
        for (int step = 0; step < 120; step++) {
            String now = inFocus();
            if (now.endsWith(field)) {
                return;
            }
            browser.keys(now.isEmpty() || now.equals(before) ? Keys.HOME : Keys.ARROW_DOWN);
            before = now;
        }
        throw new AssertionError("no row " + field + " is reached by the arrow keys");
    }

    String inFocus() {
        Object path = browser.script("const on = document.querySelector('[role=row][aria-selected=true]');"
                + "return on ? on.dataset.target : ''");
        return String.valueOf(path);
    }

    /** Types what fills the row in focus; Enter keeps it and goes to the next row. */
    void type(String text) {
        browser.keys(Keys.ENTER);
        WebElement cell = browser.see("[role=row] input[aria-label=Fill]");
        cell.sendKeys(Keys.chord(Keys.CONTROL, "a"), text);
        cell.sendKeys(Keys.ENTER);
        browser.until("the cell is left", () -> browser.driver()
                .findElements(By.cssSelector("[role=row] input[aria-label=Fill]"))
                .isEmpty());
    }

    void fill(String field, String text) {
        focus(field);
        type(text);
    }

    void saved() {
        browser.until(
                "the draft is saved", () -> browser.see("footer").getText().endsWith("Saved"));
    }

    /** Adds a stage at what is chosen: A, what it should do, Enter; its first field has the focus then. */
    void add(String does) {
        browser.keys("a");
        browser.see("input[aria-label='Find a verb']").sendKeys(does);
        browser.keys(Keys.ENTER);
        browser.until("the list is closed", () -> browser.driver()
                .findElements(By.cssSelector("input[aria-label='Find a verb']"))
                .isEmpty());
        browser.settle();
    }

    /** Takes in a mapping sheet for the stage or rule that is chosen. */
    void takesIn(String sheet) throws IOException {
        Path file = Files.createTempFile("mapping", ".csv");
        Files.writeString(file, sheet);
        browser.driver()
                .findElement(By.cssSelector("input[type=file][aria-label='Mapping sheet']"))
                .sendKeys(file.toString());
    }

    /** Answers a question of the product; the box it stood in is gone then. */
    void confirmed(String button) {
        browser.press(button);
        browser.settle();
        browser.until("the box is gone", () -> browser.driver()
                .findElements(By.cssSelector(".ant-modal-confirm"))
                .isEmpty());
    }

    String problems() {
        List<WebElement> chips = browser.driver().findElements(By.cssSelector("button.chip.caution"));
        return chips.isEmpty() ? "0" : chips.get(0).getText().replaceAll("\\D", "");
    }

    WebElement option(String label) {
        return browser.see(".ant-popover:not(.ant-popover-hidden) input[aria-label='" + label + "']");
    }

    /** Makes one record of the rows of a loan, and goes to the call. */
    void groupByLoan() {
        browser.keys("1");
        browser.seeText("One record is");
        browser.choose("Grouped by", "loan_no");
        browser.leaveField();
        browser.keys("2");
        browser.seeText("BookTransport request");
        browser.until("the lines of a loan are in reach", () -> !browser.driver()
                .findElements(By.cssSelector("[data-wire='$loan/line/crate_no']"))
                .isEmpty());
    }
}
