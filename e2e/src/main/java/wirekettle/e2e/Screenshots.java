package wirekettle.e2e;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import org.openqa.selenium.By;
import org.openqa.selenium.Keys;
import wirekettle.demo.ProductClient;

/**
 * Takes the pictures of docs/screenshots from a product started with {@code --demo}: {@code Screenshots ADDRESS
 * FOLDER}.
 */
public final class Screenshots {
    private Screenshots() {}

    /** Signs in and takes one picture of each main view. */
    public static void main(String[] args) throws IOException {
        Path folder = Path.of(args[1]);
        try (Browser browser = new Browser(args[0], Files.createTempDirectory("downloads"))) {
            browser.signIn("ada", "halewick-demo");
            browser.seeText("Waiting for you");
            browser.picture(folder.resolve("desk.png"));
            browser.open("/contracts/1");
            browser.seeText("registrationNumber>");
            browser.picture(folder.resolve("contract.png"));
            contracts(browser, new ProductClient(args[0]), folder);
            browser.open("/datasets");
            browser.seeText("loans");
            browser.open("/datasets/1");
            browser.seeText("HC-20481-1");
            browser.picture(folder.resolve("dataset.png"));
            browser.open("/flows/1?stage=call");
            browser.seeText("registrationNumber>");
            browser.seeText("50 of 50 messages valid");
            browser.picture(folder.resolve("flow.png"));
            mapping(browser, folder);
            outline(browser, folder);
            crates(browser, folder);
            duty(browser, new ProductClient(args[0]), folder);
        }
    }

    /** What changes with a revision and what it needs, what starts a flow, who is told, and what is corrected. */
    private static void duty(Browser browser, ProductClient client, Path folder) throws IOException {
        client.signIn("ada", "halewick-demo");
        ObjectNode file = (ObjectNode) client.get("/api/flows/7").get("file");
        JsonNode submit = file.get("stages").get(3).get("stages").get(0);
        ((ObjectNode) submit.get("delivery")).put("wholeMillis", 30_000);
        ((ObjectNode) submit.get("fills").get(0)).put("constant", "HC-NIGHT");
        file.put("runbook", "Clearance answers until eight. Papers in doubt: ring their desk.");
        client.send("PUT", "/api/flows/7", file, Map.of("If-Match", "1"));
        browser.open("/flows/7/publish?environment=Test");
        browser.seeText("What changes from revision 1 to 2");
        browser.press("Try all of it");
        browser.seeText("answers.");
        browser.settle();
        browser.picture(folder.resolve("publish.png"));
        browser.open("/flows/1/triggers");
        browser.seeText("Monday to Friday at 06:30");
        browser.press("Add a trigger");
        browser.seeText("Monday to Friday at 02:30");
        browser.settle();
        browser.picture(folder.resolve("trigger.png"));
        browser.open("/flows/1/alerts");
        browser.seeText("every flow");
        browser.picture(folder.resolve("alerts.png"));
        browser.open("/runs/1/correct");
        browser.seeText("collect_on");
        browser.settle();
        browser.picture(folder.resolve("correct.png"));
    }

    /** A crate of a loan before it is booked, and a loan one of whose crates could not be taken back. */
    private static void crates(Browser browser, Path folder) throws IOException {
        browser.open("/flows/6?stage=book");
        browser.seeText("BookCrate request");
        browser.click(By.cssSelector("[aria-label='next crate']"));
        browser.rowShows("}number", "HC-20481-2");
        browser.settle();
        browser.picture(folder.resolve("split.png"));
        browser.press("Run 109 in Test");
        browser.click(".ant-modal-confirm .ant-btn-primary");
        browser.seeText("109 of 109 records");
        browser.clickText("In doubt");
        browser.clickText("HC-20567");
        browser.seeText("could not be taken back");
        browser.seeText("taken back, changes data");
        browser.settle();
        browser.picture(folder.resolve("undo.png"));
    }

    /** A run whose records come to every end, and the way of a sample whose booking is supposed to fail. */
    private static void outline(Browser browser, Path folder) throws IOException {
        browser.open("/flows/4?stage=book&record=3");
        browser.press("Run 109 in Test");
        browser.click(".ant-modal-confirm .ant-btn-primary");
        browser.seeText("109 of 109 records");
        browser.seeText("held back");
        browser.until("the records are loaded", () -> browser.driver()
                .findElements(By.cssSelector(".ant-spin-blur"))
                .isEmpty());
        browser.settle();
        browser.picture(folder.resolve("run.png"));
        browser.open("/flows/4?stage=book&record=3");
        browser.seeText("BookTransport request");
        browser.click(By.xpath("//*[contains(@class,'ant-segmented-item-label') and @title='Way']"));
        browser.choose("Suppose BookTransport", "a fault");
        browser.seeText("The sample comes to the end");
        browser.settle();
        browser.picture(folder.resolve("outline.png"));
    }

    /** A document inside a reply and its rows. */
    private static void mapping(Browser browser, Path folder) throws IOException {
        browser.open("/flows/3?stage=call");
        browser.seeText("ReadRoom request");
        browser.click(By.xpath("//*[contains(@class,'ant-segmented-item-label') and @title='Reply']"));
        browser.see("[role=treeitem][data-path$='readings']").click();
        browser.press("holds a document: learn it");
        browser.see("[role=treeitem][data-path$='celsius']");
        browser.until("the message is gone", () -> browser.driver()
                .findElements(By.cssSelector(".ant-message-notice"))
                .isEmpty());
        browser.click(By.tagName("h1"));
        browser.keys("3");
        browser.press("Everything");
        browser.rowShows("celsius", "18.0");
        browser.settle();
        browser.picture(folder.resolve("flow-write.png"));
    }

    /** An operation that answers JSON, asked at once. */
    private static void offered(Browser browser, Path folder) throws IOException {
        browser.open("/contracts/1?operation=LookUpInstitution");
        browser.press("Offer to callers");
        browser.click(By.cssSelector(".ant-modal-footer .ant-btn-primary"));
        browser.seeText("answers JSON");
        browser.see("[aria-label=Request]")
                .sendKeys(
                        Keys.chord(Keys.CONTROL, "a"),
                        "{ \"registrationNumber\": \"RG-10696\", \"requestedBy\": \"HC07\" }",
                        Keys.chord(Keys.CONTROL, Keys.ENTER));
        browser.seeText("insuredLimit");
        browser.picture(folder.resolve("offer.png"));
    }

    /** The page of a flow for people, with what came back. */
    private static void page(Browser browser, ProductClient product, JsonNode trigger, Path folder) throws IOException {
        ObjectNode spec = trigger.get("spec").deepCopy();
        ObjectNode page = spec.putObject("page")
                .put("title", "Who borrows?")
                .put("note", "What the register knows of an institution, before a loan is agreed.");
        ArrayNode fields = page.putArray("fields");
        fields.addObject()
                .put("name", "registrationNumber")
                .put("label", "Registration number")
                .put("help", "of the borrower, as in RG-10696")
                .put("dataset", "loans")
                .put("column", "institution_no")
                .put("shown", "borrower");
        fields.addObject().put("name", "requestedBy").put("label", "Asked by").put("preset", "DESK");
        fields.addObject().put("name", "loanReference").put("hidden", true);
        fields.addObject().put("name", "insuredValue").put("label", "Insured value");
        fields.addObject().put("name", "collectOn").put("label", "To be collected on");
        fields.addObject().put("name", "purpose").put("label", "What for").put("preset", "loan");
        String path = "/api/triggers/" + trigger.get("id").asLong();
        product.send(
                "PUT",
                path,
                Map.of("spec", spec),
                Map.of("If-Match", "\"" + trigger.get("version").asInt() + "\""));
        browser.open("/pages");
        browser.clickText("Who borrows?");
        browser.clickText("Many rows");
        browser.see("[aria-label='Pasted rows']").sendKeys("RG-10770\nRG-99999\nRG-10511\nRG-11029");
        browser.press("Ask 4 rows");
        browser.seeText("Velmere Textile Rooms");
        browser.clickText("One");
        browser.click("#ask-insuredValue");
        browser.settle();
        browser.picture(folder.resolve("page.png"));
    }

    /** Who asked what, and how fast it was answered. */
    private static void callers(Browser browser, ProductClient product, Path folder) throws IOException {
        JsonNode flow = product.get("/api/flows?q=as%20JSON").get("items").get(0);
        JsonNode trigger = product.get("/api/triggers?flow=" + flow.get("id").asLong())
                .get("items")
                .get(0);
        String keys = "/api/triggers/" + trigger.get("id").asLong() + "/keys";
        String path = "/serve/" + trigger.get("spec").get("path").asText();
        for (String caller : List.of("Gallery of Maps, loans desk", "Harbour Hall, registrar")) {
            String key = product.post(keys, Map.of("name", caller)).get("key").asText();
            for (int i = 0; i < 40; i++) {
                String number = i % 13 == 12 ? "RG-99999" : "RG-10696";
                product.send(
                        "POST",
                        path,
                        Map.of("registrationNumber", number, "requestedBy", "DESK"),
                        Map.of("X-Api-Key", key));
            }
        }
        browser.open("/flows/" + flow.get("id").asLong() + "/callers");
        browser.seeText("Harbour Hall, registrar");
        browser.seeText("rejected for what was sent");
        browser.settle();
        browser.picture(folder.resolve("callers.png"));
        page(browser, product, trigger, folder);
    }

    /** Operations that are offered and asked, the bench, endpoints. */
    private static void contracts(Browser browser, ProductClient product, Path folder) throws IOException {
        product.signIn("ada", "halewick-demo");
        offered(browser, folder);
        callers(browser, product, folder);

        browser.open("/bench/1?port=RegisterPort&operation=LookUpInstitution");
        browser.until("the first message is there", () -> "text"
                .equals(browser.see("input[aria-label=requestedBy]").getAttribute("value")));
        browser.see("input[aria-label=registrationNumber]").sendKeys(Keys.chord(Keys.CONTROL, "a"), "RG-10696");
        browser.until("the number is taken", () -> browser.see("input[aria-label=registrationNumber]")
                .getAttribute("value")
                .equals("RG-10696"));
        browser.seeText("ready");
        browser.keys(Keys.chord(Keys.CONTROL, Keys.ENTER));
        browser.seeText("HTTP 200");
        browser.settle();
        browser.picture(folder.resolve("bench.png"));

        reaching(browser, product, folder);
    }

    /** An endpoint with its test, a simulator's rules, a service of JSON. */
    private static void reaching(Browser browser, ProductClient product, Path folder) throws IOException {
        browser.open("/settings?tab=endpoints");
        browser.seeText("wants more");
        browser.click(By.linkText("Vanline Desk over TLS"));
        browser.seeText("Test this endpoint");
        browser.press("Test this endpoint");
        browser.seeText("Trust this certificate");
        browser.settle();
        browser.picture(folder.resolve("endpoint.png"));

        product.post(
                "/api/bench/calls",
                Map.of(
                        "contract",
                        2,
                        "port",
                        "VanlinePort",
                        "operation",
                        "TrackTransport",
                        "endpoint",
                        "Vanline Desk",
                        "environment",
                        "Simulator",
                        "text",
                        "<s:Envelope xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'><s:Body>"
                                + "<v:TrackTransport xmlns:v='urn:halewick:vanline:2'><v:reference>VD-700100"
                                + "</v:reference></v:TrackTransport></s:Body></s:Envelope>"));
        browser.open("/simulators/1");
        browser.seeText("rule 2 answered");
        browser.settle();
        browser.picture(folder.resolve("simulator.png"));
    }
}
