package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static wirekettle.e2e.Until.until;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import com.sun.net.httpserver.HttpServer;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.ServerSocket;
import java.sql.Connection;
import java.sql.Statement;
import java.time.LocalTime;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Map;
import org.testng.annotations.Test;

/** What else is told of: doubt that gets old, runs that stand still, certificates, watermarks; and when it is quiet. */
public class AlertKindsApiTest extends DutyRuns {
    private static final String KNOWN = "RG-10696";
    private static final String NIGHT = "night@halewick.invalid";

    private void rule(JsonNode flow, String kind, Map<String, Object> spec) throws Exception {
        ObjectNode wanted = JSON.createObjectNode().put("kind", kind).put("environment", "Test");
        if (flow != null) {
            wanted.put("flowId", flow.get("id").asLong());
        }
        Map<String, Object> all = new java.util.HashMap<>(spec);
        all.put("mail", List.of(NIGHT));
        client.post("/api/alert-rules", wanted.putPOJO("spec", all));
    }

    private void mailed(String subject) {
        until("a mail says " + subject, () -> !mailsAbout(subject).isEmpty());
        assertEquals(mailsAbout(subject).size(), 1, "it is told once");
    }

    /** What a rule asks for in hours need not be waited for: it is written as longer ago. */
    private void ago(String sql) throws Exception {
        try (Connection admin = product.admin(product.database());
                Statement statement = admin.createStatement()) {
            assertEquals(statement.executeUpdate(sql), 1, sql);
        }
    }

    /** A service that takes what it is sent and says nothing. */
    private JsonNode lost(String name, String dataset) throws Exception {
        HttpServer silent = HttpServer.create(new InetSocketAddress(InetAddress.getByName("127.0.0.1"), 0), 0);
        silent.createContext("/", exchange -> {
            exchange.getRequestBody().readAllBytes();
            exchange.close();
        });
        silent.start();
        try {
            String host = "127.0.0.1:" + silent.getAddress().getPort();
            client.post("/api/allowed-hosts", Map.of("host", host));
            client.put(
                    "/api/endpoints",
                    Map.of("name", name + " desk", "addresses", Map.of("Test", "http://" + host + "/")));
            JsonNode flow = small(name, dataset, loans(loan("L-1", KNOWN)), file -> {
                ((ObjectNode) file.get("stages").get(1)).put("endpoint", name + " desk");
                delivery(file).put("effect", "changes");
            });
            JsonNode run = finished(run(flow, 0));
            assertEquals(run.get("inDoubt").asInt(), 1, run.toString());
            ago("update run set ended_at = ended_at - interval '70 minutes' where id = "
                    + run.get("id").asLong());
            return flow;
        } finally {
            silent.stop(0);
        }
    }

    @Test
    public void doubtThatGetsOldIsToldUntilItIsSettled() throws Exception {
        JsonNode flow = lost("Old doubt", "old doubt in");
        rule(flow, "in-doubt", Map.of("minutes", 60));
        mailed("of Old doubt in Test: 1 records in doubt since");
    }

    @Test
    public void aRunOnHoldIsTold() throws Exception {
        int nobody;
        try (ServerSocket any = new ServerSocket(0)) {
            nobody = any.getLocalPort();
        }
        String host = "127.0.0.1:" + nobody;
        client.post("/api/allowed-hosts", Map.of("host", host));
        client.put("/api/endpoints", Map.of("name", "Nobody", "addresses", Map.of("Test", "http://" + host + "/")));
        JsonNode flow = small("Held up", "held in", loans(loan("H-1", KNOWN)), file -> {
            ((ObjectNode) file.get("stages").get(1)).put("endpoint", "Nobody");
            ((ObjectNode) file.get("stages").get(1)).remove("lane");
        });
        rule(flow, "on-hold", Map.of("minutes", 30));
        long id = run(flow, 0).get("id").asLong();
        until("it is on hold", () -> get("/api/runs/" + id).hasNonNull("onHold"));
        until("the hold is kept", () -> {
            try (Connection admin = product.admin(product.database());
                    Statement statement = admin.createStatement()) {
                return statement.executeUpdate("update run set on_hold_since = on_hold_since - interval '40 minutes'"
                                + " where on_hold_since > now() - interval '30 minutes' and id = " + id)
                        == 1;
            } catch (java.sql.SQLException e) {
                throw new AssertionError(e);
            }
        });
        mailed("of Held up in Test: on hold since");
        client.post("/api/runs/" + id + "/cancel", Map.of());
    }

    @Test
    public void aRunLongerThanUsualIsTold() throws Exception {
        JsonNode flow = small("Usually quick", "quick in", loans(loan("U-1", KNOWN)), file -> {});
        rule(flow, "long", Map.of("percent", 100));
        for (int i = 0; i < 3; i++) {
            finished(run(flow, 0));
        }
        world.registerKnobs().latencyMillis = 4_000;
        JsonNode slow = run(flow, 0);
        mailed("of Usually quick in Test takes longer than usual");
        world.registerKnobs().latencyMillis = 0;
        finished(slow);
    }

    @Test
    public void aCertificateNearItsEndAndAWatermarkThatStandsStillAreTold() throws Exception {
        ago("update secret set valid_until = now() + interval '5 days' where name = 'halewick key'");
        ObjectNode everywhere = JSON.createObjectNode().put("kind", "certificate");
        everywhere.putPOJO("spec", Map.of("daysBefore", 14, "mail", List.of(NIGHT)));
        client.post("/api/alert-rules", everywhere);
        until("a certificate is told of", () -> mailsAbout("halewick key").stream()
                .anyMatch(mail -> mail.subject().contains("ends soon")));

        JsonNode flow = small("Reads on", "reads in", loans(loan("M-1", KNOWN)), file -> {});
        ago("insert into watermark (flow_id, environment, value, moved_at) values ("
                + flow.get("id").asLong() + ", 'Test', '2026-11-30T06:00:00', now() - interval '30 hours')");
        rule(flow, "watermark", Map.of("hours", 24));
        mailed("Reads on in Test: its watermark stands at 2026-11-30T06:00:00");
    }

    @Test
    public void inQuietHoursTheDeskKnowsAndTheMailWaits() throws Exception {
        JsonNode flow = small("Told quietly", "quiet in", loans(loan("Q-1", "RG-99017")), file -> {});
        LocalTime now = LocalTime.now(ZoneOffset.UTC).truncatedTo(ChronoUnit.MINUTES);
        rule(
                flow,
                "rejected",
                Map.of(
                        "count",
                        0,
                        "zone",
                        "UTC",
                        "quietFrom",
                        now.minusHours(1).toString(),
                        "quietTo",
                        now.plusHours(1).toString()));
        finished(run(flow, 0));
        String open = "/api/alerts?open=true&flow=" + flow.get("id").asLong();
        until("the alert is there", () -> get(open).get("total").asInt() == 1);
        JsonNode waiting = null;
        for (JsonNode each : get("/api/alert-messages?size=100").get("items")) {
            waiting = each.get("subject").asText().contains("Told quietly") ? each : waiting;
        }
        assertTrue(waiting != null && !waiting.hasNonNull("sentAt"), String.valueOf(waiting));
        assertTrue(waiting.get("dueAt").asText().contains(now.plusHours(1).toString()), waiting.toString());
        assertTrue(mailsAbout("Told quietly").isEmpty());
    }
}
