package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import java.nio.file.Files;
import java.util.List;
import java.util.Map;
import org.openqa.selenium.By;
import org.openqa.selenium.Keys;
import org.openqa.selenium.WebElement;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.Test;

/** Attachments on the screen: a folder is added and filled, its files are sent, what comes back is kept in another. */
public class AttachmentTest extends BrowserTest {
    @BeforeClass
    public void start() throws Exception {
        begin("-Xmx512m", true);
        browser.signIn("ada", product.password());
    }

    private void addFolder(String name) {
        browser.open("/datasets?add=folder");
        browser.seeText("Holds files of any kind");
        browser.see(".ant-modal input").click();
        List<WebElement> inputs = browser.driver().findElements(By.cssSelector(".ant-modal input[type=text]"));
        inputs.get(inputs.size() - 1).sendKeys(name);
        browser.press("Add");
        browser.seeText("No files yet");
    }

    @Test
    public void filesOfAFolderAreSentByNameAndLabelsAreKeptInAnother() throws Exception {
        for (String name : List.of("HC-1-1.png", "HC-1-2.png", "HC-1-3.png")) {
            Files.write(files.resolve(name), new byte[5_000 + name.charAt(5)]);
        }
        addFolder("labels of loan 1");
        addFolder("photographs of loan 1");
        upload("HC-1-1.png", "HC-1-2.png", "HC-1-3.png");
        browser.seeText("HC-1-3.png");
        browser.seeText("3 files");
        upload("HC-1-1.png");
        browser.seeText("Replace what is there?");
        browser.press("Replace");
        browser.seeText("HC-1-1.png is in the folder");
        browser.see("input[placeholder='Find a file']").sendKeys("1-2");
        browser.until("only one is found", () -> !browser.text().contains("HC-1-3.png"));

        browser.open("/flows?new=1&dataset=photographs%20of%20loan%201&contract=Vanline%20Desk&service=VanlineDesk"
                + "&port=VanlinePort&operation=LabelCrate");
        browser.seeText("Read records from");
        browser.see(".ant-modal input[placeholder^='LabelCrate for']").sendKeys("Label loan 1");
        browser.click(".ant-modal-footer .ant-btn-primary:not([disabled])");
        browser.seeText("LabelCrate request");
        browser.seeText("3 rows");
        String variable = browser.see("[data-wire$='/name']").getAttribute("data-wire");
        fill("}reference", "\"VD-1\"");
        fill("}crateNumber", "substring-before(" + variable + ", '.')");
        // the name of a file, in a field of base64: its content is meant
        fill("}photograph", variable);
        browser.rowShows("}photograph", "file in photographs of loan 1");
        browser.until(
                "the message says which file is sent",
                () -> browser.see("pre[aria-label=message]").getText().contains("name=\"HC-1-1.png\" bytes=\"50"));
        browser.until(
                "every message is valid",
                () -> browser.see("[aria-label=proof]").getText().contains("3 of 3 messages valid"));
    }

    @Test
    public void contentOfAReplyIsWrittenToAFolderUnderANameOfOnesOwn() {
        browser.open("/flows/5?stage=write");
        browser.seeText("labelled crates column");
        browser.rowShows("label", "HC-20481-1.svg");
        browser.click(By.cssSelector("[role=row][data-target=label]"));
        browser.click(By.tagName("h1"));
        browser.keys("o");
        WebElement called = browser.see(".ant-popover:not(.ant-popover-hidden) input[aria-label='Called']");
        assertEquals(called.getAttribute("value"), "concat($reply/crateNumber, '.svg')");
        called.sendKeys(Keys.chord(Keys.CONTROL, "a"), "concat('label of ', $reply/crateNumber, '.svg')", Keys.TAB);
        browser.rowShows("label", "label of HC-20481-1.svg");
        browser.keys(Keys.ESCAPE);
        browser.until(
                "the draft is saved", () -> browser.see("footer").getText().endsWith("Saved"));
        browser.press("Run 12 in Test");
        browser.seeText("12 of 12 records");
        browser.open("/datasets?q=crate");
        browser.seeText("crate labels");
        browser.click(By.linkText("crate labels"));
        browser.seeText("label of HC-20481-1.svg");
        assertTrue(browser.text().contains("12 files"), browser.text());
    }

    @Test
    public void whatIsTypedIsKeptWhereAnswersAreSlow() {
        browser.open("/flows?new=1&dataset=crate%20photographs&contract=Vanline%20Desk&service=VanlineDesk"
                + "&port=VanlinePort&operation=LabelCrate");
        browser.seeText("Read records from");
        browser.click(".ant-modal-footer .ant-btn-primary:not([disabled])");
        browser.seeText("LabelCrate request");
        browser.seeText("12 rows");
        browser.driver().executeCdpCommand("Network.enable", Map.of());
        browser.driver()
                .executeCdpCommand(
                        "Network.emulateNetworkConditions",
                        Map.of("offline", false, "latency", 460, "downloadThroughput", -1, "uploadThroughput", -1));
        try {
            String name = browser.see("[data-wire$='/name']").getAttribute("data-wire");
            String text = "substring-before(concat(" + name + ", '.', " + name + "), '.')";
            fill("}reference", "\"VD-1\"");
            fill("}crateNumber", text);
            By whole = By.cssSelector("[title=\"" + text + "\"]");
            browser.until(
                    "the whole text is there",
                    () -> !browser.row("}crateNumber").findElements(whole).isEmpty());
            browser.rowShows("}crateNumber", "HC-20481-1");
        } finally {
            browser.driver()
                    .executeCdpCommand(
                            "Network.emulateNetworkConditions",
                            Map.of("offline", false, "latency", 0, "downloadThroughput", -1, "uploadThroughput", -1));
        }
    }

    private void fill(String field, String text) {
        // the row after the one filled last is in focus already
        browser.until(field + " is in focus", () -> {
            WebElement row = browser.row(field);
            if (!"true".equals(row.getAttribute("aria-selected"))) {
                browser.click("[role=row][data-target$='" + field + "'] > span.clip");
            }
            return "true".equals(browser.row(field).getAttribute("aria-selected"));
        });
        browser.keys(Keys.ENTER);
        WebElement cell = browser.see("[role=row] input[aria-label=Fill]");
        cell.sendKeys(Keys.chord(Keys.CONTROL, "a"), text);
        cell.sendKeys(Keys.ENTER);
        browser.until("the cell is left", () -> browser.driver()
                .findElements(By.cssSelector("[role=row] input[aria-label=Fill]"))
                .isEmpty());
    }
}
