package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.util.List;
import java.util.Map;
import java.util.zip.ZipEntry;
import java.util.zip.ZipOutputStream;
import org.openqa.selenium.By;
import org.openqa.selenium.Keys;
import org.openqa.selenium.WebElement;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.Test;
import wirekettle.demo.DemoWorld;
import wirekettle.demo.LargeContract;

/** Contracts in the real interface of a server with 256 MB: importing, findings, a huge message, picks, a refresh. */
public class ContractPageTest extends BrowserTest {
    private static final String V2 = "{urn:halewick:vanline:2}";

    @BeforeClass
    public void start() throws Exception {
        begin("-Xmx256m", true);
        browser.signIn("ada", product.password());
    }

    private void importing(String way) {
        browser.open("/contracts?import=1");
        browser.seeText("Drop a WSDL");
        if (!way.equals("Files")) {
            browser.until(way + " is chosen", () -> {
                browser.click(By.xpath("//*[@title='" + way + "']"));
                return true;
            });
        }
    }

    private void footer() {
        browser.click(".ant-modal-footer .ant-btn-primary:not([disabled])");
    }

    private WebElement field(String name) {
        return browser.driver().findElements(By.cssSelector("[role=treeitem][data-path]")).stream()
                .filter(row -> row.getAttribute("data-path")
                        .replaceAll("#\\d+|~\\{[^}]*}\\w+", "")
                        .endsWith(name))
                .findFirst()
                .orElse(null);
    }

    private void seeField(String name) {
        browser.until("field " + name, () -> field(name) != null);
    }

    private void zip(String name, Map<String, byte[]> entries) throws Exception {
        try (ZipOutputStream out = new ZipOutputStream(Files.newOutputStream(files.resolve(name)))) {
            for (Map.Entry<String, byte[]> entry : entries.entrySet()) {
                out.putNextEntry(new ZipEntry(entry.getKey()));
                out.write(entry.getValue());
            }
        }
    }

    @Test
    public void twentyMegabytesComeInAsAZipAndAFieldIsFoundAmongThousands() throws Exception {
        Map<String, byte[]> documents = LargeContract.documents(10_000, 30, 240).files();
        long bytes = documents.values().stream().mapToLong(b -> b.length).sum();
        assertTrue(bytes > 20_000_000, bytes + " bytes");
        zip("catalogue.zip", documents);
        importing("Files");
        upload("catalogue.zip");
        footer();
        browser.seeText("Imported with 31 documents");
        footer();
        browser.seeText("10,000 types");
        seeField("DescribeObject");
        browser.seeText("All 10,114");
        // only what is in view is there
        assertTrue(
                browser.driver().findElements(By.cssSelector("[role=treeitem]")).size() < 80);
        WebElement search = browser.see("input[placeholder^='Find by name']");
        search.sendKeys("CarvedOrrery5461");
        browser.until("the search is done", () -> browser.text().contains(" rows") && field("arvedOrrery5461") != null);
        search.sendKeys(Keys.chord(Keys.CONTROL, "a"), Keys.DELETE);
        seeField("object");
        browser.press("+");
        browser.seeText("level 6 of");
        // one of two hundred derived types, found by typing
        browser.press("−");
        search.sendKeys("remark");
        seeField("remark");
        browser.until("the list opens", () -> {
            browser.openList(() -> field("remark"));
            return true;
        });
        browser.driver().switchTo().activeElement().sendKeys("ViolaRemark18", Keys.ENTER);
        browser.until(
                "the type is picked", () -> browser.see("pre.xml").getText().contains("ViolaRemark"));
        assertTrue(browser.see("pre.xml").getText().matches("(?s).*remark xsi:type=\"n\\d+:ViolaRemark18\\d?\".*"));
    }

    @Test
    public void aDocumentSavedByABrowserIsPastedRepairedAndItsFindingJumpsToItsLine() throws Exception {
        String saved = new String(
                DemoWorld.class
                        .getResourceAsStream("/awkward/saved-by-browser.wsdl")
                        .readAllBytes(),
                StandardCharsets.UTF_8);
        importing("Text");
        WebElement box = browser.see("textarea");
        browser.script("arguments[0].focus()", box);
        browser.script(
                "const set = Object.getOwnPropertyDescriptor(HTMLTextAreaElement.prototype, 'value').set;"
                        + "set.call(arguments[0], arguments[1]);"
                        + "arguments[0].dispatchEvent(new Event('input', { bubbles: true }));",
                box,
                saved);
        footer();
        browser.seeText("script-removed");
        footer();
        browser.press("3 findings");
        browser.seeText("pasted.wsdl:14:3");
        browser.press("pasted.wsdl:14:3");
        WebElement line = browser.see("[data-line='14']");
        browser.until(
                "line 14 is marked", () -> line.getCssValue("background-color").matches("rgba?\\(2\\d\\d.*"));
        assertTrue(line.getText().contains("<script"), line.getText());
    }

    @Test
    public void strictRefusesWhatItWouldHaveRepairedAndSaysWhere() {
        importing("Text");
        browser.see("textarea").sendKeys("hello <definitions xmlns='http://schemas.xmlsoap.org/wsdl/'/>");
        browser.clickText("Refuse instead of repairing");
        footer();
        browser.seeText("pasted.wsdl line 1 column 1");
    }

    @Test
    public void anAddressIsReadAndAPickedTypeIsInTheExample() throws Exception {
        importing("Address");
        browser.see(".ant-modal input.mono").sendKeys(world.address("clearance") + "?wsdl");
        footer();
        browser.seeText("nothing unusual was found");
        footer();
        seeField("}document");
        browser.until("the list opens", () -> {
            browser.openList(() -> field("}document"));
            return true;
        });
        browser.driver().switchTo().activeElement().sendKeys("Insur", Keys.ENTER);
        browser.until(
                "the example follows",
                () -> browser.see("pre.xml").getText().contains("xsi:type=\"n2:InsuranceCertificate\""));
        browser.seeText("valid");
        seeField("policy");
        // a choice: the other branch
        browser.until("transitOnly has the focus", () -> {
            field("transitOnly").click();
            return !browser.driver()
                    .findElements(By.xpath("//button[.='this one']"))
                    .isEmpty();
        });
        browser.press("this one");
        browser.until(
                "the other branch is written",
                () -> browser.see("pre.xml").getText().contains("transitOnly")
                        && !browser.see("pre.xml").getText().contains("nailToNail"));
    }

    @Test
    public void aRepeatedFieldIsAddedAndRemoved() {
        browser.open("/contracts/2?port=VanlinePort&operation=BookCrate");
        browser.seeText("BookCrate>");
        seeField("}content");
        browser.until("the row is in focus", () -> {
            field("}content").click();
            return !browser.driver()
                    .findElements(By.xpath("//button[.='add another']"))
                    .isEmpty();
        });
        browser.press("add another");
        browser.until("there are two", () -> browser.see("pre.xml").getText().split("<n1:content>").length == 3);
        browser.press("remove");
        browser.until(
                "there is one again", () -> browser.see("pre.xml").getText().split("<n1:content>").length == 2);
    }

    @Test
    public void aDerivedTypeIsPickedInTheRowOfAFlowAndFilled() throws Exception {
        browser.open("/flows?new=1&dataset=loans&contract=Loan%20Clearance&service=LoanClearance"
                + "&port=ClearancePort&operation=SubmitDocument");
        browser.seeText("Read records from");
        footer();
        browser.seeText("SubmitDocument request");
        browser.row("}document");
        browser.until("the list opens", () -> {
            browser.openList(() -> browser.row("}document"));
            return true;
        });
        browser.driver().switchTo().activeElement().sendKeys("Loan", Keys.ENTER);
        // until the sample has answered, what is typed into the next list may be drawn anew
        browser.rowShows("LoanAgreement/{urn:halewick:clearance:papers}to", "is required");
        browser.openList(() -> browser.row("}party"));
        browser.driver().switchTo().activeElement().sendKeys("courier", Keys.ENTER);
        browser.row("}courier/{urn:halewick:clearance}name");
        browser.until("the flow is kept with its picks", () -> {
            try {
                for (JsonNode flow : product.client().get("/api/flows?size=500").get("items")) {
                    String file = product.client()
                            .get("/api/flows/" + flow.get("id").asLong())
                            .toString();
                    if (file.contains("~{urn:halewick:clearance:papers}LoanAgreement") && file.contains("}courier")) {
                        return true;
                    }
                }
                return false;
            } catch (java.io.IOException e) {
                throw new AssertionError(e);
            }
        });
    }

    private JsonNode vanlineFlow() throws Exception {
        String flow =
                """
                {"format": 1, "name": "Track transports", "stages": [
                  {"verb": "Read", "id": "read", "dataset": "transports", "as": "transport"},
                  {"verb": "Call", "id": "call", "contract": "Moved Desk", "service": "VanlineDesk",
                   "port": "VanlinePort", "operation": "TrackTransport", "endpoint": "Vanline Desk", "as": "reply",
                   "fills": [{"id": "q1", "target": "/%1$sTrackTransport/%1$sreference", "wire": "$transport/Transport_ref"},
                             {"id": "q2", "target": "/%1$sTrackTransport/%1$ssince", "wire": "$transport/Booked_on"}],
                   "delivery": {"effect": "reads"}},
                  {"verb": "Write", "id": "write", "dataset": "borrowers", "mode": "replace", "rows": "",
                   "columns": [{"name": "status", "label": "status", "type": "string", "required": false}],
                   "fills": [{"id": "w1", "target": "status", "wire": "$reply/status"}]}]}
                """
                        .formatted(V2);
        return new ObjectMapper().readTree(flow);
    }

    @Test
    public void aContractWhoseSourceChangedIsComparedTakenInAndItsFlowCarriedOver() throws Exception {
        importing("Address");
        browser.see(".ant-modal input.mono").sendKeys(world.address("vanline") + "?wsdl");
        footer();
        browser.seeText("nothing unusual was found");
        footer();
        browser.seeText("TrackTransport>");
        String page = browser.location().replaceAll("\\?.*", "");
        String name = browser.see("h1").getText();
        JsonNode file = new ObjectMapper().readTree(vanlineFlow().toString().replace("Moved Desk", name));
        JsonNode flow = product.client().post("/api/flows", Map.of("name", "Track transports", "file", file));
        assertEquals(flow.get("problems").size(), 0, flow.get("problems").toString());

        world.turnTheYear();
        browser.open(page);
        browser.seeText("TrackTransport>");
        browser.press("Refresh");
        browser.press("Read it again");
        browser.press("See what changed");
        browser.seeText("revision 1 → 2");
        browser.seeText("1 fill loses its field");
        browser.seeText("TrackTransport › since");
        String text = browser.text();
        for (String said : List.of("lost", "moves", "namespace", "language", "urn:halewick:vanline:3")) {
            assertTrue(text.contains(said), said + " in " + text);
        }
        browser.press("Take revision 2 in");
        browser.seeText("the fills of 1 flow were moved");
        browser.seeText("revision 2");

        JsonNode carried = product.client().get("/api/flows/" + flow.get("id").asLong());
        assertEquals(carried.get("revision").asInt(), 2);
        JsonNode fills = carried.get("file").get("stages").get(1).get("fills");
        assertEquals(
                fills.get(0).get("target").asText(),
                "/{urn:halewick:vanline:3}TrackTransport/{urn:halewick:vanline:3}reference");
        assertEquals(fills.get(1).get("target").asText(), "/" + V2 + "TrackTransport/" + V2 + "since");

        // the fill that lost its field is kept until it is removed, and the flow works without it
        browser.open("/flows/" + flow.get("id").asLong() + "?stage=call");
        browser.seeText("has no field in this message");
        browser.press("remove");
        browser.until("it is gone", () -> !browser.text().contains("has no field in this message"));
        browser.press("Call it");
        browser.seeText("Reply kept");

        // the revisions stay to be compared
        browser.open(page + "?show=revisions");
        browser.seeText("Changes from");
        browser.seeText("field");
    }

    @Test
    public void aBlockedHostAndALoginAreSolvedInsideTheImport() throws Exception {
        try (LoginServer server = new LoginServer("ada", "crates", DemoWorld.resource("vanline/VanlineDesk.wsdl"))) {
            importing("Address");
            browser.see(".ant-modal input.mono").sendKeys("http://" + server.host() + "/desk?wsdl");
            footer();
            browser.press("and try again");
            browser.seeText("wants a name and password");
            browser.see("input[aria-label='Login name']").sendKeys("ada");
            browser.see("input[aria-label='Login password']").sendKeys("boxes", Keys.ENTER);
            browser.seeText("does not accept this name and password");
            WebElement password = browser.see("input[aria-label='Login password']");
            password.sendKeys(Keys.chord(Keys.CONTROL, "a"), "crates", Keys.ENTER);
            browser.seeText("nothing unusual was found");
        }
    }
}
