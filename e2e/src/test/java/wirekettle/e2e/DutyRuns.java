package wirekettle.e2e;

import static wirekettle.e2e.Until.until;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.io.IOException;
import java.util.List;
import java.util.Map;
import org.testng.annotations.AfterClass;
import wirekettle.demo.DemoWorld;
import wirekettle.demo.MailSink;
import wirekettle.demo.ProductClient;

/** A started product that mails, and what is done with flows that run by themselves. */
abstract class DutyRuns extends BorrowerRuns {
    static final ObjectMapper JSON = new ObjectMapper();
    final MailSink mails = new MailSink(freePort());

    private static int freePort() {
        try (java.net.ServerSocket any = new java.net.ServerSocket(0)) {
            return any.getLocalPort();
        } catch (IOException e) {
            throw new AssertionError(e);
        }
    }

    @Override
    Map<String, String> settings() {
        return Map.of(
                "WIREKETTLE_MAIL_HOST", "127.0.0.1",
                "WIREKETTLE_MAIL_PORT", Integer.toString(mails.port()),
                "WIREKETTLE_ALERT_SECONDS", "1");
    }

    @AfterClass(alwaysRun = true)
    public void closeMails() {
        mails.close();
    }

    ProductClient.Answer send(String method, String path, Object body, long version) {
        try {
            return client.send(method, path, body, Map.of("If-Match", "\"" + version + "\""));
        } catch (IOException e) {
            throw new AssertionError(e);
        }
    }

    JsonNode sent(String method, String path, Object body, long version) throws IOException {
        ProductClient.Answer answer = send(method, path, body, version);
        if (answer.status() / 100 != 2) {
            throw new AssertionError(method + " " + path + ": " + answer.text());
        }
        return answer.json();
    }

    JsonNode publish(JsonNode flow, String environment) throws IOException {
        long id = flow.get("id").asLong();
        return sent(
                "POST",
                "/api/flows/" + id + "/publications",
                Map.of(
                        "environment",
                        environment,
                        "revision",
                        flow.get("revision").asInt()),
                inForce(id, environment));
    }

    long inForce(long flow, String environment) {
        for (JsonNode each : get("/api/flows/" + flow + "/publications")) {
            if (each.get("environment").asText().equals(environment)) {
                return each.get("id").asLong();
            }
        }
        return 0;
    }

    JsonNode trigger(JsonNode flow, String kind, Map<String, Object> spec) throws IOException {
        return client.post(
                "/api/flows/" + flow.get("id").asLong() + "/triggers",
                Map.of("environment", "Test", "kind", kind, "spec", spec));
    }

    /** Waits for what a trigger did last, and returns it. */
    JsonNode event(JsonNode trigger, String what) {
        String path = "/api/triggers/" + trigger.get("id").asLong() + "/events";
        until(what, () -> get(path).get("items").findValuesAsText("what").contains(what));
        for (JsonNode each : get(path).get("items")) {
            if (each.get("what").asText().equals(what)) {
                return each;
            }
        }
        throw new AssertionError();
    }

    /** Adds a flow of a few records that checks borrowers, with rows to a dataset of its own. */
    JsonNode small(String name, String dataset, String csv, java.util.function.Consumer<ObjectNode> change)
            throws Exception {
        client.upload("/api/datasets/files", "file", Map.of(dataset + ".csv", csv.getBytes("UTF-8")));
        String into = dataset + " seen";
        client.post("/api/datasets", Map.of("name", into, "kind", "csv"));
        ObjectNode file = (ObjectNode) JSON.readTree(DemoWorld.resource("flows/check-borrowers.json"));
        file.put("name", name);
        ObjectNode read = (ObjectNode) file.get("stages").get(0);
        read.put("dataset", dataset);
        ((ObjectNode) file.get("stages").get(2)).put("dataset", into);
        change.accept(file);
        return client.post("/api/flows", Map.of("name", name, "file", file));
    }

    static String loans(String... lines) {
        return "loan_no;crate_no;institution_no;borrower;object;collect_on;insured_value;gross_kg;length_cm;climate;remark\n"
                + String.join("\n", lines) + "\n";
    }

    static String loan(String number, String institution) {
        return number + ";" + number + "-1;" + institution
                + ";Fenmoor Lace Archive;Glass orrery;09.12.2026;1200,50;73,5;242;C;";
    }

    List<MailSink.Mail> mailsAbout(String text) {
        return mails.mails().stream()
                .filter(each -> (each.subject() + each.text()).contains(text))
                .toList();
    }
}
