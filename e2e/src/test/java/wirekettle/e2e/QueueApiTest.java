package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static wirekettle.e2e.Until.until;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.testng.annotations.AfterClass;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.Test;
import wirekettle.connect.queue.QueueMessage;
import wirekettle.core.soap.EndpointReach;
import wirekettle.core.value.DocumentForm;
import wirekettle.demo.ProductClient;

/** Flows whose records are the messages of a queue. */
public class QueueApiTest extends CallersFixture {
    private OwnBroker own;

    @BeforeClass
    public void start() throws Exception {
        own = new OwnBroker();
        begin("-Xmx256m", Map.of());
        own.known(client);
    }

    @AfterClass(alwaysRun = true)
    public void close() throws Exception {
        own.close();
    }

    private JsonNode register(String name) throws Exception {
        return offered("LookUpInstitution", "Institution Register", name);
    }

    private JsonNode takes(JsonNode offer, String queue, Map<String, Object> more) throws Exception {
        Map<String, Object> all = new HashMap<>(more);
        all.put("queue", Map.of("endpoint", OwnBroker.ENDPOINT, "name", queue, "answers", queue + ".answers"));
        return OwnBroker.taken(client, offer.get("flow").asLong(), queue, all);
    }

    private JsonNode trigger(JsonNode its) {
        for (JsonNode each : get("/api/triggers?size=200").get("items")) {
            if (each.get("id").asLong() == its.get("id").asLong()) {
                return each;
            }
        }
        throw new AssertionError("the trigger is gone");
    }

    /** Returns the records of the flow's runs that ended in some way. */
    private List<JsonNode> records(JsonNode offer, String ended) {
        List<JsonNode> all = new ArrayList<>();
        for (JsonNode run :
                get("/api/runs?size=100&flow=" + offer.get("flow").asLong()).get("items")) {
            get("/api/runs/" + run.get("id").asLong() + "/records?size=500&ended=" + ended)
                    .get("items")
                    .forEach(all::add);
        }
        return all;
    }

    @Test
    public void aMessageIsARecordAndItsAnswerComesBackByItsCorrelation() throws Exception {
        JsonNode its = register("Asked by message");
        JsonNode trigger = takes(its, "register", Map.of());
        assertEquals(trigger.get("words").asText(), "when a message comes to register at Halewick broker");
        own.send("register", "morning-1", KNOWN);
        own.send(
                "register",
                QueueMessage.of(
                        DocumentForm.XML,
                        "<any><registrationNumber>RG-10696</registrationNumber><requestedBy>DESK</requestedBy></any>",
                        "morning-2",
                        Map.of()));
        own.send("register", "morning-3", KNOWN.replace("10696", "99999"));
        Map<String, QueueMessage> answers = new HashMap<>();
        own.read("register.answers", 3).forEach(each -> answers.put(each.correlation(), each));
        assertEquals(answers.keySet(), Set.of("morning-1", "morning-2", "morning-3"));
        QueueMessage first = answers.get("morning-1");
        assertEquals(first.type(), "application/json");
        assertEquals(first.properties().get("status"), "200");
        assertTrue(
                first.properties().get("Wire-Kettle-Record").matches("\\d+/\\d+"),
                first.properties().toString());
        assertEquals(JSON.readTree(first.text()), json(post(its, KNOWN)), "a message gets what a caller gets");
        assertEquals(answers.get("morning-2").text(), first.text());
        assertEquals(answers.get("morning-3").properties().get("status"), "422");
        assertEquals(own.broker().left("register"), 0);
        until("it is seen that the queue is read", () -> get("/api/triggers/"
                        + trigger.get("id").asLong() + "/events")
                .at("/items")
                .findValuesAsText("what")
                .contains("reading"));
        ProductClient.Answer byHand =
                client.send("POST", "/api/triggers/" + trigger.get("id").asLong() + "/run", Map.of(), Map.of());
        assertEquals(byHand.status(), 409, byHand.text());
    }

    @Test
    public void whatCannotBeTakenIsARejectedRecordThatSaysWhyAndTheOthersGoOn() throws Exception {
        JsonNode its = register("Sent nonsense");
        takes(
                its,
                "nonsense",
                Map.of("kilobytes", 10, "headers", List.of(Map.of("header", "tenant", "field", "requestedBy"))));
        String deep = "[".repeat(100_000);
        List<QueueMessage> sent = List.of(
                QueueMessage.of(DocumentForm.JSON, "no JSON", "a", Map.of()),
                QueueMessage.of(
                        DocumentForm.JSON,
                        "{\"registrationNumber\": \"RG-1\", \"registrationNumber\": \"RG-2\"}",
                        "b",
                        Map.of()),
                QueueMessage.of(DocumentForm.JSON, "{\"registration\": \"RG-10696\"}", "c", Map.of()),
                QueueMessage.of(DocumentForm.JSON, deep.substring(0, 9_000), "d", Map.of()),
                QueueMessage.of(DocumentForm.XML, "<!DOCTYPE a [<!ENTITY b 'c'>]><a>&b;</a>", "e", Map.of()),
                QueueMessage.of(DocumentForm.JSON, deep, "f", Map.of()),
                new QueueMessage(
                        null, "g", null, "application/json", new byte[] {(byte) 0xff, 0, 1}, Map.of(), 0, null),
                QueueMessage.of(
                        DocumentForm.JSON, "{\"registrationNumber\": \"RG-10696\"}", "h", Map.of("tenant", "DESK")));
        own.send("nonsense", sent.toArray(QueueMessage[]::new));
        Map<String, String> statuses = new HashMap<>();
        own.read("nonsense.answers", sent.size())
                .forEach(each ->
                        statuses.put(each.correlation(), each.properties().get("status")));
        assertEquals(
                statuses,
                Map.of("a", "422", "b", "422", "c", "422", "d", "422", "e", "422", "f", "422", "g", "422", "h", "200"));
        List<String> why = records(its, "rejected").stream()
                .map(each -> each.get("message").asText())
                .toList();
        assertEquals(why.size(), sent.size() - 1, why.toString());
        for (String said : List.of("is no JSON", "/registrationNumber", "is no XML", "100000 bytes")) {
            assertTrue(why.stream().anyMatch(each -> each.contains(said)), said + " in " + why);
        }
        assertEquals(own.broker().left("nonsense"), 0);
        // what was sent can be looked at
        JsonNode first = records(its, "rejected").stream()
                .filter(each -> each.get("message").asText().contains("is no JSON"))
                .findFirst()
                .orElseThrow();
        assertTrue(first.toString().length() > 10);
    }

    @Test
    public void nothingIsLostWhileTheBrokerRestartsOrMoreComesThanIsWorkedOn() throws Exception {
        JsonNode its = register("Asked by many");
        JsonNode trigger = takes(its, "many", Map.of("atOnce", 5));
        until(
                "it is read",
                () -> trigger(trigger).path("last").path("what").asText().equals("reading"));
        world.registerKnobs().latencyMillis = 20;
        try {
            QueueMessage[] all = new QueueMessage[300];
            for (int i = 0; i < all.length; i++) {
                all[i] = QueueMessage.of(DocumentForm.JSON, KNOWN, "many-" + i, Map.of());
            }
            own.send("many", all);
            until("some are done", () -> records(its, "done").size() > 20);
            own.broker().stop();
            until(
                    "it is said that the broker is away",
                    () -> trigger(trigger).path("last").path("what").asText().equals("refused"));
            own.broker().start();
            // an answer that was on its way when the broker went may come twice
            Set<String> answered = new HashSet<>();
            for (int left = all.length; left > 0; left = all.length - answered.size()) {
                List<QueueMessage> more = own.read("many.answers", left);
                assertTrue(more.size() >= left, "there are more answers");
                more.forEach(each -> answered.add(each.correlation()));
            }
            assertEquals(records(its, "done").size(), all.length, "each was worked on once");
        } finally {
            world.registerKnobs().latencyMillis = 0;
        }
    }

    @Test
    public void anEndpointThatIsDownIsWaitedForAndTheQueueKeepsTheRest() throws Exception {
        long register = 0;
        for (JsonNode each : client.get("/api/endpoints")) {
            register = each.get("name").asText().equals("Institution Register")
                    ? each.get("id").asLong()
                    : register;
        }
        client.put(
                "/api/endpoints/" + register + "/environments/Test",
                Map.of(
                        "address",
                        world.address("register"),
                        "settings",
                        Map.of("down", Map.of("statuses", List.of(502)))));
        JsonNode its = register("Asked while down");
        JsonNode trigger = takes(its, "down", Map.of("atOnce", 4));
        until(
                "it is read",
                () -> trigger(trigger).path("last").path("what").asText().equals("reading"));
        world.registerKnobs().outage = "page";
        try {
            for (int i = 0; i < 10; i++) {
                own.send("down", "down-" + i, KNOWN);
            }
            until("the queue keeps what is not taken", () -> own.broker().left("down") == 6);
            assertEquals(records(its, "done").size(), 0);
        } finally {
            world.registerKnobs().outage = "none";
        }
        assertEquals(own.read("down.answers", 10).size(), 10);
        assertEquals(records(its, "done").size(), 10);
    }

    /** A flow of a file: each loan is announced in a queue, with its number as a property. */
    @Test
    public void documentsAreSentOnceTheirRecordHasEnded() throws Exception {
        client.post(
                "/api/datasets",
                Map.of(
                        "name",
                        "loans announced",
                        "kind",
                        "queue",
                        "queue",
                        Map.of("endpoint", OwnBroker.ENDPOINT, "name", "announced", "form", "json")));
        ObjectNode file = flow("Book transports").get("file").deepCopy();
        file.put("name", "Announce loans");
        ArrayNode stages = JSON.createArrayNode().add(file.at("/stages/0"));
        stages.addObject()
                .put("verb", "Write")
                .put("id", "announce")
                .put("dataset", "loans announced")
                .put("document", "json")
                .set("columns", JSON.readTree("[{\"name\": \"loan\", \"type\": \"string\"}]"));
        ObjectNode write = (ObjectNode) stages.get(1);
        write.set("fills", JSON.readTree("[{\"id\": \"a1\", \"target\": \"loan\", \"wire\": \"$loan/loan_no\"}]"));
        write.set(
                "properties", JSON.readTree("[{\"name\": \"loan-no\", \"value\": \"concat('no ', $loan/loan_no)\"}]"));
        file.set("stages", stages);
        long id = client.post("/api/flows", Map.of("name", "Announce loans", "file", file))
                .get("id")
                .asLong();
        own.broker().stop();
        String path;
        try {
            path = "/api/runs/"
                    + client.post("/api/flows/" + id + "/runs", Map.of("environment", "Test", "confirmed", true))
                            .get("id")
                            .asLong();
            assertEquals(get(path).at("/run/state").asText(), "running");
        } finally {
            own.broker().start();
        }
        JsonNode ended = ended(path, "run");
        assertEquals(ended.get("state").asText(), "done", ended.toString());
        int done = ended.get("done").asInt();
        assertTrue(done > 3, ended.toString());
        List<QueueMessage> sent = own.read("announced", done);
        assertEquals(sent.size(), done);
        Set<String> names = new HashSet<>();
        for (QueueMessage each : sent) {
            String loan = JSON.readTree(each.text()).get("loan").asText();
            assertEquals(each.properties().get("loan-no"), "no " + loan);
            assertEquals(each.type(), "application/json");
            names.add(each.properties().get("Wire-Kettle-Message"));
        }
        assertEquals(names.size(), done, "each has a name of its own: " + names);
        ProductClient.Answer wrong = client.send(
                "POST",
                "/api/datasets",
                Map.of("name", "nowhere", "kind", "queue", "queue", Map.of("name", "a")),
                Map.of());
        assertEquals(wrong.json().get("code").asText(), "bad-queue");
    }

    @Test
    public void whatARunWasCancelledBeforeIsAnsweredThatItWas() throws Exception {
        JsonNode its = register("Asked and cancelled");
        takes(its, "cancelled", Map.of("atOnce", 2));
        world.registerKnobs().latencyMillis = 3_000;
        try {
            own.send("cancelled", "c-1", KNOWN);
            String runs = "/api/runs?flow=" + its.get("flow").asLong();
            until(
                    "it is worked on",
                    () -> get(runs).at("/items/0/state").asText().equals("running")
                            && own.broker().left("cancelled") == 0);
            client.post("/api/runs/" + get(runs).at("/items/0/id").asLong() + "/cancel", Map.of("takeResults", false));
            List<QueueMessage> answers = own.read("cancelled.answers", 1);
            assertEquals(answers.size(), 1, "it is answered, done or not");
            assertEquals(answers.get(0).correlation(), "c-1");
        } finally {
            world.registerKnobs().latencyMillis = 0;
        }
    }

    @Test
    public void whatNothingTakesStaysInTheQueueAndThatIsTold() throws Exception {
        JsonNode its = register("Asked in vain");
        JsonNode trigger = takes(its, "vain", Map.of());
        until(
                "it is read",
                () -> trigger(trigger).path("last").path("what").asText().equals("reading"));
        String host = EndpointReach.destination(world.address("register"));
        assertEquals(
                client.send("DELETE", "/api/allowed-hosts?host=" + host, null, Map.of())
                        .status(),
                200);
        try {
            own.send("vain", "vain-1", KNOWN);
            until(
                    "it is said that nothing is taken",
                    () -> trigger(trigger).path("last").path("what").asText().equals("refused"));
            assertEquals(own.broker().left("vain"), 1);
        } finally {
            client.post("/api/allowed-hosts", Map.of("host", host));
        }
        assertEquals(own.read("vain.answers", 1).size(), 1);

        // a trigger that is turned off lets the queue be, and its run is done
        ProductClient.Answer off = client.send(
                "PUT",
                "/api/triggers/" + trigger.get("id").asLong(),
                Map.of("active", false),
                Map.of("If-Match", "\"" + trigger.get("version").asInt() + "\""));
        assertEquals(off.status(), 200, off.text());
        String runs = "/api/runs?flow=" + its.get("flow").asLong();
        until("its run is done", () -> get(runs).at("/items/0/state").asText().equals("done"));
        own.send("vain", "vain-2", KNOWN);
        assertEquals(own.broker().left("vain"), 1);
    }

    @Test
    public void aQueueThatCannotBeIsRefused() throws Exception {
        JsonNode its = register("Asked nowhere");
        String path = "/api/flows/" + its.get("flow").asLong() + "/triggers";
        refused(path, "no-queue", Map.of());
        refused(path, "no-broker", Map.of("queue", Map.of("endpoint", "Institution Register", "name", "a")));
        refused(path, "no-address", Map.of("queue", Map.of("endpoint", "Nobody", "name", "a")));
        refused(path, "bad-queue", Map.of("queue", Map.of("endpoint", OwnBroker.ENDPOINT, "name", " ")));
        refused(
                path,
                "same-queue",
                Map.of("queue", Map.of("endpoint", OwnBroker.ENDPOINT, "name", "a", "answers", "a")));
        refused(
                path,
                "out-of-range",
                Map.of("queue", Map.of("endpoint", OwnBroker.ENDPOINT, "name", "a", "deliveries", 0)));
        takes(its, "taken", Map.of());
        refused(path, "queue-taken", Map.of("queue", Map.of("endpoint", OwnBroker.ENDPOINT, "name", "taken")));
    }

    private void refused(String path, String code, Map<String, Object> spec) throws Exception {
        ProductClient.Answer answer =
                client.send("POST", path, Map.of("environment", "Test", "kind", "queue", "spec", spec), Map.of());
        assertEquals(answer.json().path("code").asText(), code, answer.text());
        assertTrue(new String(answer.text().getBytes(StandardCharsets.UTF_8), StandardCharsets.UTF_8).length() > 20);
    }
}
