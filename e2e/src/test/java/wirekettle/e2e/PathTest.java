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
import wirekettle.demo.DemoWorld;

/** A new user's whole way in the real interface: from nothing to a downloaded result, mostly by keyboard. */
public class PathTest extends BrowserTest {
    @BeforeClass
    public void start() throws Exception {
        begin("-Xmx512m", false);
        for (Map.Entry<String, byte[]> file :
                DemoWorld.registerDocuments().files().entrySet()) {
            Files.write(files.resolve(file.getKey()), file.getValue());
        }
        Files.write(files.resolve("loans.csv"), DemoWorld.resource("data/loans.csv"));
    }

    @Test
    public void fromAWsdlToADownloadedResult() throws Exception {
        browser.signIn("ada", product.password());

        // an empty desk says what to do first
        browser.seeText("Start with a contract");
        browser.press("Import a contract");
        browser.seeText("Drop a WSDL");
        upload("InstitutionRegister.wsdl", "register-types.xsd", "register-address.xsd");
        browser.press("Import");
        browser.seeText("nothing unusual was found");
        browser.press("Open the contract");
        browser.seeText("Two letters, a dash, five digits.");

        // a data file, looked at
        browser.open("/datasets");
        browser.seeText("No datasets yet");
        upload("loans.csv");
        browser.seeText("HC-20481-1");
        browser.seeText("dd.MM.yyyy");
        browser.press("Build a flow");
        browser.choose("Contract", "Institution Register");
        browser.choose("Operation", "RegisterPort,");
        browser.click(".ant-modal-footer .ant-btn-primary");

        // the request is filled: suggestions with the keyboard, one constant typed
        browser.seeText("LookUpInstitution request");
        browser.rowShows("registrationNumber", "required");
        browser.keys("s");
        browser.rowShows("registrationNumber", "$loan/institution_no");
        browser.seeText("shares “number”");
        browser.keys(Keys.TAB);
        browser.rowShows("registrationNumber", "RG-10696");
        browser.press("Accept");
        browser.rowShows("insuredValue", "707735.50");
        browser.rowShows("collectOn", "2026-12-11");
        assertTrue(browser.row("insuredValue").getText().contains("decimal comma"));
        browser.row("requestedBy").click();
        browser.keys(Keys.ENTER);
        browser.see("[role=row] input[aria-label=Fill]");
        browser.keys("HALEWICK", Keys.ENTER);
        browser.rowShows("requestedBy", "HALEWICK");
        browser.until("the message is shown", () -> browser.see("pre").getText().contains("<n1:requestedBy>HALEWICK<"));
        browser.seeText("Saved");

        // the service's real address, and a real call for the sample, kept
        browser.click(By.xpath("//*[@title='Delivery']"));
        WebElement address = browser.see("input.mono[value='http://register.invalid/soap']");
        address.sendKeys(Keys.chord(Keys.CONTROL, "a"), world.address("register"), Keys.TAB);
        browser.until(
                "the address is kept",
                () -> browser.driver()
                                .findElements(By.cssSelector("input[value='" + world.address("register") + "']"))
                                .size()
                        == 1);
        browser.click(By.xpath("//*[@title='Reply']"));
        browser.press("Add a condition");
        WebElement condition = browser.see("input[aria-label=Condition]");
        condition.sendKeys(Keys.chord(Keys.CONTROL, "a"), "$reply/status = 'suspended'", Keys.TAB);
        browser.see("input[aria-label=Message]").sendKeys("institution suspended", Keys.TAB);
        browser.press("Call it");
        browser.press("Allow 127.0.0.1");
        browser.seeText("Answered and kept");

        // the record written
        browser.click(By.tagName("h1"));
        browser.keys("3");
        browser.seeText("The record has no columns yet");
        browser.press("Make a record of everything");
        browser.rowShows("city", "Lünbrück");
        browser.choose("Target dataset", "add a file, table or queue");
        browser.see(".ant-modal input[type=text], .ant-modal input:not([type])").sendKeys("borrowers");
        browser.click(".ant-modal-footer .ant-btn-primary");
        browser.seeText("replace the file");
        browser.seeText("ready");
        browser.until(
                "the draft is saved", () -> browser.see("footer").getText().contains("Saved"));

        // run, watch, look at what failed
        browser.press("Run 240 in Test");
        browser.until("the run page is shown", () -> browser.location().startsWith("/runs/"));
        browser.seeText("240 of 240 records");
        browser.seeText("institution suspended");
        String text = browser.text();
        assertTrue(text.contains("230"), text);
        assertTrue(text.contains("3 ×") && text.contains("UnknownInstitution"), text);
        browser.press("UnknownInstitution");
        browser.until(
                "only those records are listed",
                () -> browser.driver()
                                .findElements(By.cssSelector("tbody tr.ant-table-row"))
                                .size()
                        == 3);
        browser.click("tbody tr.ant-table-row a");
        browser.seeText("no institution has this registration number");
        browser.keys(Keys.ESCAPE);

        // the result
        browser.until("the drawer is closed", () -> browser.driver()
                .findElements(By.cssSelector(".ant-drawer-open"))
                .isEmpty());
        browser.click(By.linkText("Download results"));
        browser.until("the file is there", () -> Files.exists(files.resolve("run-1-results.csv")));
        List<String> lines = Files.readAllLines(files.resolve("run-1-results.csv"));
        assertEquals(lines.size(), 231);
        assertTrue(lines.get(0).startsWith("registration_number,name,status,street,city"), lines.get(0));

        // from a cause to the fill behind it
        browser.click(By.linkText("the condition →"));
        browser.until("the flow is shown", () -> browser.location().contains("blame=c1"));
    }
}
