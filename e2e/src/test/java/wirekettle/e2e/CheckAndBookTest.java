package wirekettle.e2e;

import static org.testng.Assert.assertEquals;

import com.fasterxml.jackson.databind.JsonNode;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.openqa.selenium.By;
import org.openqa.selenium.Keys;
import org.openqa.selenium.WebElement;
import org.testng.annotations.Test;
import wirekettle.demo.ProductClient;

/** The demo's flow of loans checked and booked, built from nothing by keyboard alone, does what the demo's own does. */
public class CheckAndBookTest extends FlowEditing {
    private static final String SUM =
            "sum($loan/line/number(translate(translate(insured_value, '.', ''), ',', '.'))[. = .])";

    /** Goes from field to field by Tab until the one of a name has the focus. */
    private void tabTo(String name) {
        String last = "";
        for (int i = 0; i < 60; i++) {
            last = String.valueOf(browser.script("const on = document.activeElement;"
                    + "return on.getAttribute('aria-label') || on.getAttribute('placeholder') || on.innerText"
                    + " || on.title || on.name || ''"));
            if (last.strip().startsWith(name)) {
                return;
            }
            browser.keys(Keys.TAB);
        }
        throw new AssertionError("no field " + name + " is reached by Tab, the last was " + last);
    }

    /** Picks what begins with a text from the list of a field, by typing it. */
    private void pick(String field, String text) {
        tabTo(field);
        browser.keys(text);
        browser.until("the list shows " + text, () -> browser
                .driver()
                .findElements(By.cssSelector(
                        ".ant-select-dropdown:not(.ant-select-dropdown-hidden)" + " .ant-select-item-option-active"))
                .stream()
                .anyMatch(option -> option.getText().contains(text)));
        browser.keys(Keys.ENTER);
    }

    private void into(String field, String text) {
        tabTo(field);
        browser.keys(Keys.chord(Keys.CONTROL, "a"), text, Keys.TAB);
    }

    /** Goes into the fields of the stage that is chosen. */
    private void fields() {
        browser.leaveField();
        browser.keys("e");
    }

    /** Chooses the line of the outline that begins with a text, line by line from the top. */
    private void line(String says) {
        browser.leaveField();
        browser.keys("1");
        browser.until("the first line is chosen", () -> at().equals("0"));
        for (int i = 0; i < 40; i++) {
            if (chosen().startsWith(says)) {
                browser.settle();
                return;
            }
            String before = at();
            browser.keys(Keys.chord(Keys.ALT, Keys.ARROW_RIGHT));
            browser.until("a line behind “" + chosen() + "” is chosen", () -> !at().equals(before));
        }
        throw new AssertionError("no line says " + says + ": "
                + browser.see("ol[aria-label=Outline]").getText());
    }

    /** Which line of the outline is chosen. */
    private String at() {
        return String.valueOf(
                browser.script("return [...document.querySelectorAll('ol[aria-label=Outline] > li')].findIndex("
                        + "line => line.querySelector('[aria-current=true]'))"));
    }

    private String chosen() {
        String text = String.valueOf(
                browser.script("const on = document.querySelector('ol[aria-label=Outline] [aria-current=true]');"
                        + "return on ? on.innerText : ''"));
        return text.replaceAll("\\s+", " ").replaceFirst("^[\\d.]+ ?", "").strip();
    }

    private void column(String name, String fill) {
        browser.keys("c");
        browser.until(
                "the new column is named",
                () -> Boolean.TRUE.equals(
                        browser.script("return document.activeElement.getAttribute('aria-label') === 'Column name'")));
        browser.keys(name, Keys.ENTER);
        browser.until("it is called " + name, () -> inFocus().equals(name));
        type(fill);
    }

    /** Adds a Write at what is chosen, and says what fills its columns. */
    private void write(String dataset, String... columns) {
        add("Writes rows");
        target(dataset, columns);
    }

    private void target(String dataset, String... columns) {
        pick("Target dataset", dataset);
        browser.leaveField();
        for (int i = 0; i < columns.length; i += 2) {
            column(columns[i], columns[i + 1]);
        }
        saved();
    }

    private boolean keptHere() {
        return browser.see("footer").getText().contains("Reply kept");
    }

    /** The way the sample takes at the first Branch, as the outline marks it. */
    private String wayTaken() {
        List<WebElement> taken =
                browser.driver().findElements(By.cssSelector("ol[aria-label=Outline] [class*=wayTaken]"));
        return taken.isEmpty() ? "" : taken.get(0).getText();
    }

    private void condition(String expression, String message) {
        browser.leaveField();
        browser.keys("p");
        browser.seeText("Counts as failed when");
        browser.keys("e");
        tabTo("Add a condition");
        browser.keys(Keys.ENTER);
        into("Condition", expression);
        into("Message", message);
        saved();
    }

    @Test
    public void theDemosFlowIsBuiltFromNothingByKeyboard() throws Exception {
        browser.open("/flows");
        browser.seeText("Check and book");
        tabTo("Build a flow");
        browser.keys(Keys.ENTER);
        browser.seeText("Read records from");
        pick("Dataset", "loans");
        pick("Contract", "Institution Register");
        pick("Operation", "LookUpInstitution");
        tabTo("LookUpInstitution for loans");
        browser.keys("Checked and booked by key", Keys.ENTER);
        browser.seeText("LookUpInstitution request");
        browser.seeText("50 rows");

        browser.keys("1");
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

        // it is run, and does what the demo's own flow does
        browser.keys("r");
        browser.seeText("BookTransport changes data");
        browser.keys(Keys.ENTER);
        browser.until("the run page is shown", () -> browser.location().startsWith("/runs/"));
        browser.until(
                "the run is done",
                () -> browser.see("h1 + .chip, .chip").getText().equals("done"));
        ProductClient client = product.client();
        Map<String, Long> built = ends(client, flow(client, "Checked and booked by key"));
        long demos = flow(client, "Check and book");
        client.post("/api/flows/" + demos + "/runs", Map.of("environment", "Test"));
        browser.until("the demo's own is done", () -> state(client, demos).equals("done"));
        assertEquals(built, ends(client, demos));
    }

    private static long flow(ProductClient client, String name) throws Exception {
        for (JsonNode each : client.get("/api/flows?size=100").get("items")) {
            if (each.get("name").asText().equals(name)) {
                return each.get("id").asLong();
            }
        }
        throw new AssertionError("there is no flow " + name);
    }

    private static String state(ProductClient client, long flow) {
        try {
            return client.get("/api/runs?flow=" + flow)
                    .get("items")
                    .get(0)
                    .get("state")
                    .asText();
        } catch (Exception e) {
            throw new IllegalStateException(e);
        }
    }

    /**
     * How many records of a flow's last run ended in which way, and the counts of its stages by what they are about.
     */
    private static Map<String, Long> ends(ProductClient client, long flow) throws Exception {
        JsonNode run = client.get("/api/runs?flow=" + flow).get("items").get(0);
        Map<String, Long> ends = new TreeMap<>();
        for (String end : List.of("read", "done", "rejected", "leftOut", "inDoubt", "heldBack", "saved", "rows")) {
            ends.put(end, run.get(end).asLong());
        }
        return ends;
    }
}
