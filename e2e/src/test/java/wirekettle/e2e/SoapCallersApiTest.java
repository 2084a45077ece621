package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertNotNull;
import static org.testng.Assert.assertTrue;
import static wirekettle.e2e.Until.until;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.io.IOException;
import java.net.Socket;
import java.net.URI;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.util.Base64;
import java.util.List;
import java.util.Map;
import java.util.function.Consumer;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.Test;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.ContractReader;
import wirekettle.core.contract.DocumentSource;
import wirekettle.core.contract.ImportProgress;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.schema.Picks;
import wirekettle.core.soap.ExampleEnvelope;
import wirekettle.core.soap.Reply;
import wirekettle.core.soap.ReplyReader;
import wirekettle.core.soap.attachments.Multipart;
import wirekettle.core.soap.attachments.Part;
import wirekettle.core.value.NodeWriter;
import wirekettle.demo.ProductClient;

/** Callers that speak SOAP: by a description made of the flows, and by a port of a contract that is given. */
public class SoapCallersApiTest extends CallersFixture {
    private static final String REGISTER = "urn:halewick:register:1";
    private static final String WSSE =
            "http://docs.oasis-open.org/wss/2004/01/oasis-200401-wss-wssecurity-secext-1.0.xsd";

    @BeforeClass
    public void start() throws Exception {
        begin("-Xmx256m", Map.of("WIREKETTLE_CALL_SECONDS", "2"));
    }

    private JsonNode register(String name) throws Exception {
        return offered("LookUpInstitution", "Institution Register", name);
    }

    /** Offers an operation at a port of its own contract, as one in front of the real service. */
    private JsonNode facade(String name, String address, Map<String, Object> more) throws Exception {
        JsonNode its = register(name);
        Map<String, Object> soap = new java.util.HashMap<>(Map.of(
                "address",
                address,
                "contract",
                "Institution Register",
                "port",
                "RegisterPort",
                "operation",
                "LookUpInstitution"));
        soap.putAll(more);
        changed(its, Map.of("soap", soap));
        return its;
    }

    private static String envelope(SoapVersion version, String headers, String body) {
        return "<s:Envelope xmlns:s='" + version.envelope() + "'><s:Header>" + headers + "</s:Header><s:Body>" + body
                + "</s:Body></s:Envelope>";
    }

    private static String lookUp(String number) {
        return "<r:LookUpInstitution xmlns:r='" + REGISTER + "'><r:registrationNumber>" + number
                + "</r:registrationNumber><r:requestedBy>DESK</r:requestedBy></r:LookUpInstitution>";
    }

    private HttpRequest.Builder at(String address) {
        return HttpRequest.newBuilder(URI.create(product.address() + "/serve/" + address))
                .header("Content-Type", "text/xml; charset=utf-8");
    }

    private HttpResponse<String> asked(JsonNode of, String address, String envelope) throws Exception {
        return sent(at(address)
                .header("X-Api-Key", of.get("key").asText())
                .POST(HttpRequest.BodyPublishers.ofString(envelope))
                .build());
    }

    /** Asks until what was saved just now is known. */
    private HttpResponse<String> settled(JsonNode of, String address, String envelope) throws Exception {
        until("it answers as SOAP", () -> {
            try {
                return asked(of, address, envelope).body().contains("Envelope");
            } catch (Exception e) {
                throw new AssertionError(e);
            }
        });
        return asked(of, address, envelope);
    }

    private static Reply read(HttpResponse<String> answer) throws Exception {
        return ReplyReader.read(answer.body().getBytes(StandardCharsets.UTF_8));
    }

    private static String fault(HttpResponse<String> answer) throws Exception {
        Reply reply = read(answer);
        assertNotNull(reply.fault(), answer.body());
        return reply.fault().code() + ": " + reply.fault().reason();
    }

    private Contract described(String address) throws Exception {
        String first = product.address() + "/serve/" + address + "?wsdl";
        DocumentSource web = name -> {
            try {
                HttpResponse<byte[]> document = HTTP.send(
                        HttpRequest.newBuilder(URI.create(name)).build(), HttpResponse.BodyHandlers.ofByteArray());
                if (document.statusCode() != 200) {
                    throw new IOException(name + " is answered by " + document.statusCode());
                }
                return document.body();
            } catch (InterruptedException e) {
                throw new IOException(e);
            }
        };
        return ContractReader.read(List.of(first), web, true, ImportProgress.NONE);
    }

    @Test
    public void aFlowIsDescribedAndCalledInBothVersionsOfSoap() throws Exception {
        JsonNode its = register("Institutions by SOAP");
        String path = its.get("path").asText().replaceFirst("/serve/", "");
        changed(its, Map.of("soap", Map.of("operation", "FindInstitution")));
        until("it is described", () -> {
            try {
                return sent(HttpRequest.newBuilder(URI.create(product.address() + "/serve/" + path + "?wsdl"))
                                        .build())
                                .statusCode()
                        == 200;
            } catch (Exception e) {
                throw new AssertionError(e);
            }
        });
        Contract own = described(path);
        assertEquals(own.findings(), List.of());
        assertEquals(own.operations().size(), 2);
        assertEquals(own.services().get(0).ports().get(0).address(), product.address() + "/serve/" + path);

        // imported and called from the bench, as any other service
        String host = product.address().replaceFirst("https?://", "");
        client.post("/api/allowed-hosts", Map.of("host", host));
        JsonNode job = client.post("/api/imports", Map.of("address", product.address() + "/serve/" + path + "?wsdl"));
        JsonNode[] read = {job};
        until("it is imported", () -> {
            read[0] = get("/api/imports/" + job.get("id").asLong());
            return !read[0].get("state").asText().equals("reading");
        });
        assertEquals(read[0].get("state").asText(), "done", read[0].toString());
        JsonNode contract =
                client.get("/api/contracts/" + read[0].get("contract").asLong());
        long endpoint = client.put("/api/endpoints", Map.of("name", "Ourselves"))
                .get("id")
                .asLong();
        for (Contract.Offered each : own.operations()) {
            String address = "/api/endpoints/" + endpoint + "/environments/Test";
            Map<String, Object> settings = Map.of(
                    "headers",
                    List.of(Map.of("name", "X-Api-Key", "value", its.get("key").asText())));
            client.put(address, Map.of("address", product.address() + "/serve/" + path, "settings", settings));
            String namespace = "urn:wire-kettle:" + path.replace('/', ':');
            JsonNode call = client.post(
                    "/api/bench/calls",
                    Map.of(
                            "contract",
                            contract.get("id").asLong(),
                            "port",
                            each.port().name(),
                            "operation",
                            "FindInstitution",
                            "endpoint",
                            "Ourselves",
                            "environment",
                            "Test",
                            "text",
                            envelope(
                                    each.port().soapVersion(),
                                    "",
                                    "<f:FindInstitution xmlns:f='" + namespace
                                            + "'><f:registrationNumber>RG-10696</f:registrationNumber>"
                                            + "<f:requestedBy>DESK</f:requestedBy></f:FindInstitution>"),
                            "confirmed",
                            true));
            JsonNode[] ended = {call};
            until("it is answered", () -> {
                ended[0] = get("/api/bench/calls/" + call.get("id").asLong());
                return !ended[0].get("state").asText().equals("running");
            });
            assertTrue(ended[0].toString().contains("FindInstitutionResponse"), ended[0].toString());
        }
    }

    @Test
    public void messagesOfOurOwnDescriptionFitIt() throws Exception {
        JsonNode its = register("Institutions described");
        String path = its.get("path").asText().replaceFirst("/serve/", "");
        changed(its, Map.of("soap", Map.of("operation", "FindInstitution")));
        String namespace = "urn:wire-kettle:" + path.replace('/', ':');
        String body = "<f:FindInstitution xmlns:f='" + namespace + "'><f:registrationNumber>RG-10696"
                + "</f:registrationNumber><f:requestedBy>DESK</f:requestedBy></f:FindInstitution>";
        settled(its, path, envelope(SoapVersion.SOAP_11, "", body));
        Contract own = described(path);
        assertEquals(own.check().problems(body.getBytes(StandardCharsets.UTF_8)), List.of());
        for (SoapVersion version : SoapVersion.values()) {
            HttpResponse<String> answer = asked(its, path, envelope(version, "", body));
            assertEquals(answer.statusCode(), 200, answer.body());
            Reply reply = read(answer);
            assertEquals(reply.body().get(0).name().toString(), "{" + namespace + "}FindInstitutionResponse");
            assertEquals(reply.body().get(0).textOf("registrationNumber"), "RG-10696");
            String written = NodeWriter.write(reply.body().get(0), false);
            assertEquals(own.check().problems(written.getBytes(StandardCharsets.UTF_8)), List.of(), written);
            assertTrue(answer.body().contains(version.envelope()), answer.body());

            // a fault of the service behind it is a declared fault of ours
            HttpResponse<String> unknown = asked(its, path, envelope(version, "", body.replace("10696", "99999")));
            Reply refused = read(unknown);
            assertEquals(refused.fault().detail().get(0).name().toString(), "{" + namespace + "}Problem");
            String problem = NodeWriter.write(refused.fault().detail().get(0), false);
            assertEquals(own.check().problems(problem.getBytes(StandardCharsets.UTF_8)), List.of(), problem);
            assertFalse(refused.fault().reason().isBlank());
        }
        // the same path answers JSON as before
        assertEquals(post(its, KNOWN).statusCode(), 200);
    }

    @Test
    public void aPortOfAGivenContractIsImplemented() throws Exception {
        JsonNode its = facade("In front of the register", "test/front", Map.of());
        HttpResponse<String> answer = settled(its, "test/front", envelope(SoapVersion.SOAP_11, "", lookUp("RG-10696")));
        assertEquals(answer.statusCode(), 200, answer.body());
        Contract given = described("test/front");
        assertTrue(
                given.operations().stream().anyMatch(each -> each.port().name().equals("RegisterPort")));
        String written = NodeWriter.write(read(answer).body().get(0), false);
        assertEquals(given.check().problems(written.getBytes(StandardCharsets.UTF_8)), List.of(), written);
        assertEquals(read(answer).body().get(0).name().toString(), "{" + REGISTER + "}LookUpInstitutionResponse");
        assertEquals(read(answer).body().get(0).textOf("registrationNumber"), "RG-10696");

        // its typed fault comes through
        HttpResponse<String> unknown = asked(its, "test/front", envelope(SoapVersion.SOAP_11, "", lookUp("RG-99999")));
        assertEquals(unknown.statusCode(), 500);
        Reply fault = read(unknown);
        assertEquals(fault.fault().code(), "Client");
        assertEquals(fault.fault().detail().get(0).name().toString(), "{" + REGISTER + "}UnknownInstitution");
        String detail = NodeWriter.write(fault.fault().detail().get(0), false);
        assertEquals(given.check().problems(detail.getBytes(StandardCharsets.UTF_8)), List.of(), detail);
    }

    @Test
    public void whatIsWrongWithARequestIsToldAsAFault() throws Exception {
        JsonNode its = facade("Front with wrong callers", "test/wrong-callers", Map.of());
        String good = envelope(SoapVersion.SOAP_11, "", lookUp("RG-10696"));
        settled(its, "test/wrong-callers", good);
        String[][] wrong = {
            {good.replace("</r:LookUpInstitution>", "<r:loud/></r:LookUpInstitution>"), "Client: ", "loud"},
            {envelope(SoapVersion.SOAP_11, "", "<x/>"), "Client: ", "no operation here takes x"},
            {envelope(SoapVersion.SOAP_11, "", ""), "Client: ", "no body"},
            {envelope(SoapVersion.SOAP_12, "", lookUp("RG-1")), "VersionMismatch: ", "SOAP 1.1"},
            {good.replace(SoapVersion.SOAP_11.envelope(), "urn:later"), "VersionMismatch: ", "urn:later"},
            {
                envelope(SoapVersion.SOAP_11, "<m:Must xmlns:m='urn:m' s:mustUnderstand='1'/>", lookUp("RG-1")),
                "MustUnderstand: ",
                "Must"
            },
            {"<!DOCTYPE a [<!ENTITY b SYSTEM 'file:///etc/hostname'>]>" + good, "Client: ", ""},
            {good.substring(0, 90), "Client: ", ""},
            {"<a>".repeat(100_000), "Client: ", ""},
        };
        for (String[] each : wrong) {
            String told = fault(asked(its, "test/wrong-callers", each[0]));
            assertTrue(told.startsWith(each[1]) && told.contains(each[2]), told);
        }
        HttpResponse<String> large = asked(its, "test/wrong-callers", good + " ".repeat(1_100_000));
        assertEquals(large.statusCode(), 413);
        assertTrue(fault(large).contains("at most"), large.body());
        assertEquals(asked(its, "test/wrong-callers", good).statusCode(), 200);
    }

    @Test
    public void aKeyIsShownAsAHeaderAsBasicOrAsATokenOfAUser() throws Exception {
        JsonNode its = facade("Front with keys", "test/keyed", Map.of("token", true));
        String good = envelope(SoapVersion.SOAP_11, "", lookUp("RG-10696"));
        settled(its, "test/keyed", good);
        String key = its.get("key").asText();
        String basic = Base64.getEncoder().encodeToString(("partner:" + key).getBytes(StandardCharsets.UTF_8));
        assertEquals(
                sent(at("test/keyed")
                                .header("Authorization", "Basic " + basic)
                                .POST(HttpRequest.BodyPublishers.ofString(good))
                                .build())
                        .statusCode(),
                200);
        for (String[] each : new String[][] {{"first", key, "200"}, {"other", key, "401"}, {"first", "no", "401"}}) {
            String token = "<w:Security xmlns:w='" + WSSE + "' s:mustUnderstand='1'><w:UsernameToken><w:Username>"
                    + each[0] + "</w:Username><w:Password>" + each[1]
                    + "</w:Password></w:UsernameToken></w:Security>";
            HttpResponse<String> answer = sent(at("test/keyed")
                    .POST(HttpRequest.BodyPublishers.ofString(envelope(SoapVersion.SOAP_11, token, lookUp("RG-10696"))))
                    .build());
            assertEquals(answer.statusCode(), Integer.parseInt(each[2]), answer.body());
        }
        HttpResponse<String> none = sent(
                at("test/keyed").POST(HttpRequest.BodyPublishers.ofString(good)).build());
        assertEquals(none.statusCode(), 401);
        assertTrue(fault(none).startsWith("Client: "), none.body());
    }

    @Test
    public void thePartnersRetryGetsTheKeptAnswer() throws Exception {
        JsonNode its = facade("Front with retries", "test/retries", Map.of());
        String id = "<a:MessageID xmlns:a='http://www.w3.org/2005/08/addressing'>urn:uuid:7</a:MessageID>";
        settled(its, "test/retries", envelope(SoapVersion.SOAP_11, "", lookUp("RG-10696")));
        String request = envelope(SoapVersion.SOAP_11, id, lookUp("RG-10696"));
        HttpResponse<String> first = asked(its, "test/retries", request);
        HttpResponse<String> again = asked(its, "test/retries", request);
        assertEquals(again.body(), first.body());
        assertEquals(again.headers().firstValue("Wire-Kettle-Again").orElse(""), "true");
        assertTrue(first.body().contains("RelatesTo") && first.body().contains("urn:uuid:7"), first.body());
        HttpResponse<String> other = asked(its, "test/retries", envelope(SoapVersion.SOAP_11, id, lookUp("RG-10400")));
        assertTrue(fault(other).contains("Something else was sent"), other.body());
    }

    @Test
    public void aWholePortIsOfferedInOneAction() throws Exception {
        JsonNode its = client.post(
                "/api/offers",
                Map.of(
                        "contract",
                        "Vanline Desk",
                        "operation",
                        "BookTransport",
                        "environment",
                        "Test",
                        "soap",
                        true,
                        "wholePort",
                        true));
        String address = its.get("soap").asText();
        assertTrue(its.get("operations").asInt() > 1, its.toString());
        Contract[] given = {null};
        until("it is described", () -> {
            try {
                given[0] = described(address.replaceFirst("/serve/", ""));
                return true;
            } catch (Exception e) {
                return false;
            }
        });
        Contract.Offered booking = given[0].operations().stream()
                .filter(each -> each.operation().name().equals("BookTransport"))
                .findFirst()
                .orElseThrow();
        ExampleEnvelope example =
                ExampleEnvelope.of(given[0], booking.operation().input(), true, Picks.NONE);
        String request = example.text(booking.port().soapVersion(), false);
        String at = address.replaceFirst("/serve/", "");
        HttpResponse<String> stranger = asked(its, at, request);
        assertTrue(fault(stranger).contains("this desk may not book"), stranger.body());
        HttpResponse<String> answer = asked(its, at, request.replace("AA11", "HC07"));
        Reply reply = read(answer);
        String written = NodeWriter.write(
                reply.fault() == null
                        ? reply.body().get(0)
                        : reply.fault().detail().get(0),
                false);
        assertEquals(given[0].check().problems(written.getBytes(StandardCharsets.UTF_8)), List.of(), written);

        // nothing comes back where the contract says so
        Contract.Offered position = given[0].operations().stream()
                .filter(each -> each.operation().name().equals("ReportPosition"))
                .findFirst()
                .orElseThrow();
        ExampleEnvelope told = ExampleEnvelope.of(given[0], position.operation().input(), true, Picks.NONE);
        HttpResponse<String> taken =
                asked(its, at, told.text(position.port().soapVersion(), false).replace("AA11", "HC07"));
        assertEquals(taken.statusCode(), 202, taken.body());
        assertEquals(taken.body(), "");
    }

    @Test
    public void whoSendsSlowlyIsLetGo() throws Exception {
        JsonNode its = register("Asked slowly");
        URI at = URI.create(product.address());
        long since = System.nanoTime();
        for (String type : List.of("application/json", "text/xml")) {
            try (Socket socket = new Socket(at.getHost(), at.getPort())) {
                String head = "POST " + its.get("path").asText() + " HTTP/1.1\r\nHost: " + at.getAuthority()
                        + "\r\nContent-Type: " + type + "\r\nX-Api-Key: "
                        + its.get("key").asText()
                        + "\r\nContent-Length: 500\r\n\r\n{\"regi";
                socket.getOutputStream().write(head.getBytes(StandardCharsets.UTF_8));
                socket.setSoTimeout(25_000);
                assertEquals(socket.getInputStream().read(), -1, "the connection ends");
            }
        }
        assertTrue(System.nanoTime() - since < 25_000_000_000L);
        assertEquals(post(its, KNOWN).statusCode(), 200);
    }

    /** Changes the flow of an offer and puts it into force. */
    private void published(JsonNode of, Consumer<ObjectNode> change) throws Exception {
        String flow = "/api/flows/" + of.get("flow").asLong();
        ObjectNode file = client.get(flow).get("file").deepCopy();
        change.accept(file);
        ProductClient.Answer saved = client.send("PUT", flow, file, Map.of("If-Match", "\"1\""));
        assertEquals(saved.status(), 200, saved.text());
        long inForce = client.get(flow + "/publications").get(0).get("id").asLong();
        ProductClient.Answer published = client.send(
                "POST",
                flow + "/publications",
                Map.of("environment", "Test", "revision", 2),
                Map.of("If-Match", "\"" + inForce + "\""));
        assertTrue(published.status() < 300, published.text());
    }

    @Test
    public void theSameBusinessKeyGetsTheKeptAnswer() throws Exception {
        JsonNode its = facade("Front with business keys", "test/business-keys", Map.of("byKey", true));
        published(its, file -> ((ObjectNode) file.get("stages").get(0)).put("key", "$input/registrationNumber"));
        String request = envelope(SoapVersion.SOAP_11, "", lookUp("RG-10511"));
        HttpResponse<String>[] last = new HttpResponse[1];
        until("it is known again", () -> {
            try {
                last[0] = asked(its, "test/business-keys", request);
                return last[0].headers().firstValue("Wire-Kettle-Again").isPresent();
            } catch (Exception e) {
                throw new AssertionError(e);
            }
        });
        assertEquals(last[0].statusCode(), 200);
        assertEquals(read(last[0]).body().get(0).textOf("registrationNumber"), "RG-10511");
        String other = request.replace("DESK", "HC07");
        assertTrue(fault(asked(its, "test/business-keys", other)).contains("Something else was sent"));
        HttpResponse<String> another =
                asked(its, "test/business-keys", envelope(SoapVersion.SOAP_11, "", lookUp("RG-10770")));
        assertEquals(another.headers().firstValue("Wire-Kettle-Again").isPresent(), false);
        assertEquals(read(another).body().get(0).textOf("registrationNumber"), "RG-10770");
    }

    @Test
    public void anAnswerThatDoesNotFitTheContractRejectsItsRecord() throws Exception {
        JsonNode its = facade("Front that forgets", "test/forgets", Map.of());
        published(its, file -> {
            ObjectNode answer =
                    (ObjectNode) file.get("stages").get(file.get("stages").size() - 1);
            for (String list : List.of("columns", "fills")) {
                String named = list.equals("columns") ? "name" : "target";
                var kept = JSON.createArrayNode();
                answer.get(list).forEach(each -> {
                    if (!each.get(named).asText().equals("name")) {
                        kept.add(each);
                    }
                });
                answer.set(list, kept);
            }
        });
        String request = envelope(SoapVersion.SOAP_11, "", lookUp("RG-10696"));
        HttpResponse<String>[] last = new HttpResponse[1];
        until("it forgets", () -> {
            try {
                last[0] = asked(its, "test/forgets", request);
                return last[0].body().contains("Fault");
            } catch (Exception e) {
                throw new AssertionError(e);
            }
        });
        String told = fault(last[0]);
        assertTrue(told.startsWith("Server: "), told);
        String[] record =
                last[0].headers().firstValue("Wire-Kettle-Record").orElseThrow().split("/");
        String line =
                client.get("/api/runs/" + record[0] + "/records/" + record[1]).toString();
        assertTrue(line.contains("rejected") && line.contains("the answer does not fit"), line);
    }

    @Test
    public void aMessageWithPartsIsAnsweredWithParts() throws Exception {
        JsonNode its = facade("Front with parts", "test/parts", Map.of());
        String request = envelope(SoapVersion.SOAP_11, "", lookUp("RG-10696"));
        settled(its, "test/parts", request);
        Part root = new Part(
                "root@halewick.example",
                "application/xop+xml; charset=utf-8; type=\"text/xml\"",
                request.getBytes(StandardCharsets.UTF_8));
        Multipart.Written written =
                Multipart.write(List.of(root), "; type=\"application/xop+xml\"; start-info=\"text/xml\"");
        HttpResponse<byte[]> answer = HTTP.send(
                HttpRequest.newBuilder(URI.create(product.address() + "/serve/test/parts"))
                        .header("Content-Type", written.contentType())
                        .header("X-Api-Key", its.get("key").asText())
                        .POST(HttpRequest.BodyPublishers.ofByteArray(
                                written.content().bytes()))
                        .build(),
                HttpResponse.BodyHandlers.ofByteArray());
        assertEquals(answer.statusCode(), 200);
        String type = answer.headers().firstValue("Content-Type").orElse("");
        assertTrue(Multipart.is(type), type);
        List<Part> parts = Multipart.read(type, answer.body());
        Reply reply = ReplyReader.read(parts.get(0).bytes());
        assertEquals(reply.body().get(0).textOf("registrationNumber"), "RG-10696");
    }

    @Test
    public void whatCannotBeSavedIsToldAtOnce() throws Exception {
        JsonNode its = facade("Front of one", "test/one", Map.of());
        JsonNode second = register("Front of another");
        String path = "/api/triggers/" + second.get("trigger").asLong();
        Map<String, Object> good = Map.of(
                "address",
                "test/one",
                "contract",
                "Institution Register",
                "port",
                "RegisterPort",
                "operation",
                "LookUpInstitution");
        Object[][] wrong = {
            {good, 409, "operation-taken"},
            {Map.of("address", "test/one"), 409, "address-taken"},
            {Map.of("address", "test/{no}"), 400, "bad-address"},
            {Map.of("contract", "Nowhere", "operation", "Ask"), 400, "no-contract"},
            {Map.of("contract", "Institution Register", "operation", "Ask"), 400, "no-operation"},
            {Map.of("operation", "two words"), 400, "bad-operation"},
        };
        for (Object[] each : wrong) {
            ProductClient.Answer answer = client.send(
                    "PUT",
                    path,
                    Map.of("spec", Map.of("path", "test/front-of-another", "soap", each[0])),
                    Map.of("If-Match", "\"1\""));
            assertEquals(answer.status(), each[1], answer.text());
            assertEquals(answer.json().get("code").asText(), each[2]);
        }
        assertNotNull(its);
    }
}
