package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNotEquals;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import org.testng.annotations.AfterClass;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.Test;
import wirekettle.demo.ProductClient;
import wirekettle.demo.StartedProduct;

/** Who may do what: every path and method of the API, with every right and with none. */
public class AccessTest {
    /** What needs more than looking; every method that is not a GET stands here, so that none can be forgotten. */
    private static final Map<String, Set<String>> NEEDS = Map.of(
            "NONE",
            Set.of("POST /api/sign-in", "POST /api/sign-out"),
            "LOOK",
            Set.of(
                    "POST /api/bench/fills",
                    "POST /api/bench/text",
                    "POST /api/certificates",
                    "POST /api/contracts/{id}/sheet",
                    "POST /api/flows/{id}/differences",
                    "POST /api/flows/{id}/everything",
                    "POST /api/flows/{id}/expression",
                    "POST /api/flows/{id}/learn",
                    "POST /api/flows/{id}/preview",
                    "POST /api/flows/{id}/proofs",
                    "POST /api/flows/{id}/suggestions",
                    "DELETE /api/proofs/{proof}",
                    "POST /api/bundles/comparison",
                    "POST /api/runs/{id}/corrections/{ordinal}/verdict",
                    "POST /api/triggers/times",
                    "PUT /api/people/{id}/password"),
            "BUILD",
            Set.of(
                    "POST /api/alert-rules",
                    "PUT /api/alert-rules/{id}",
                    "DELETE /api/alert-rules/{id}",
                    "POST /api/alert-rules/{id}/try",
                    "POST /api/bundles",
                    "POST /api/flows/{flow}/triggers",
                    "PUT /api/triggers/{id}",
                    "DELETE /api/triggers/{id}",
                    "POST /api/triggers/{id}/keys",
                    "DELETE /api/triggers/{id}/keys/{key}",
                    "PUT /api/triggers/{id}/keys/{key}",
                    "POST /api/input-shapes",
                    "POST /api/offers",
                    "POST /api/flows/{id}/publications",
                    "POST /api/flows/{id}/publications/{environment}/end",
                    "POST /api/flows/{id}/publications/{environment}/take-back",
                    "POST /api/code-tables",
                    "POST /api/code-tables/entries/dataset",
                    "POST /api/code-tables/entries/file",
                    "PUT /api/code-tables/{id}",
                    "DELETE /api/code-tables/{id}",
                    "DELETE /api/contracts/{id}",
                    "PUT /api/contracts/{id}/effects",
                    "POST /api/datasets",
                    "POST /api/datasets/files",
                    "POST /api/datasets/replies",
                    "PUT /api/datasets/{id}",
                    "DELETE /api/datasets/{id}",
                    "POST /api/datasets/{id}/files",
                    "DELETE /api/datasets/{id}/files",
                    "POST /api/datasets/{id}/look",
                    "POST /api/flows",
                    "PUT /api/flows/{id}",
                    "DELETE /api/flows/{id}",
                    "POST /api/flows/{id}/kept-replies",
                    "POST /api/flows/{id}/mapping-sheet",
                    "POST /api/imports",
                    "POST /api/imports/described",
                    "POST /api/imports/files",
                    "POST /api/imports/{id}/cancel",
                    "POST /api/refreshes/{job}",
                    "POST /api/series",
                    "PUT /api/series/{id}",
                    "DELETE /api/series/{id}",
                    "POST /api/series/{id}/numbers/settled",
                    "POST /api/simulator-lessons",
                    "POST /api/simulators",
                    "PUT /api/simulators/{id}",
                    "DELETE /api/simulators/{id}",
                    "POST /api/simulators/{id}/endpoints",
                    "DELETE /api/simulators/{id}/requests"),
            "RUN",
            Set.of(
                    "POST /api/alerts/{id}/acknowledge",
                    "POST /api/ask-pages/{trigger}/records",
                    "POST /api/runs/{id}/corrections/file",
                    "POST /api/runs/{id}/corrections/replacement",
                    "PUT /api/runs/{id}/corrections/{ordinal}",
                    "DELETE /api/runs/{id}/corrections/{ordinal}",
                    "POST /api/runs/{id}/settlements",
                    "POST /api/triggers/{id}/run",
                    "POST /api/bench/calls",
                    "PUT /api/bench/calls/{id}",
                    "DELETE /api/bench/calls/{id}",
                    "POST /api/bench/calls/{id}/cancel",
                    "POST /api/flows/{flow}/runs",
                    "POST /api/flows/{id}/sample-call",
                    "PUT /api/flows/{id}/watermarks",
                    "POST /api/runs/{id}/cancel",
                    "POST /api/runs/{id}/pause",
                    "POST /api/runs/{id}/finish",
                    "POST /api/runs/{id}/resume",
                    "POST /api/runs/{id}/resend"),
            "MANAGE",
            Set.of(
                    "POST /api/environments",
                    "PUT /api/environments/{name}",
                    "DELETE /api/environments/{name}",
                    "POST /api/working-days",
                    "PUT /api/working-days/{id}",
                    "DELETE /api/working-days/{id}",
                    "DELETE /api/secrets/{name}/next",
                    "POST /api/allowed-hosts",
                    "DELETE /api/allowed-hosts",
                    "PUT /api/endpoints",
                    "DELETE /api/endpoints/{id}",
                    "PUT /api/endpoints/{id}/environments/{environment}",
                    "POST /api/endpoints/{id}/test",
                    "GET /api/people",
                    "POST /api/people",
                    "DELETE /api/people/{id}",
                    "PUT /api/people/{id}/rights",
                    "PUT /api/secrets/{name}",
                    "DELETE /api/secrets/{name}",
                    "PUT /api/secrets/{name}/destinations",
                    "POST /api/secrets/{name}/key"));

    private static final String PASSWORD = "six wagons of straw";

    private StartedProduct product;
    private ProductClient ada;
    private JsonNode paths;

    @BeforeClass
    public void start() throws Exception {
        product = new StartedProduct(Path.of(".."), List.of("-Xmx256m"), Map.of());
        ada = product.client();
        paths = new ObjectMapper()
                .readTree(Path.of("../web/openapi.json").toFile())
                .get("paths");
    }

    @AfterClass(alwaysRun = true)
    public void stop() throws Exception {
        product.close();
    }

    private record Method(String verb, String path, boolean form) {
        String name() {
            return verb + " " + path;
        }

        String address() {
            return path.replace("{environment}", "Test")
                    .replace("{name}", "nothing-of-that-name")
                    .replaceAll("\\{[^}]+}", "999999");
        }
    }

    private List<Method> methods() {
        List<Method> all = new ArrayList<>();
        paths.properties().forEach(path -> path.getValue().properties().forEach(method -> {
            boolean form = method.getValue().path("requestBody").path("content").has("multipart/form-data");
            all.add(new Method(method.getKey().toUpperCase(java.util.Locale.ROOT), path.getKey(), form));
        }));
        return all;
    }

    private static String needed(Method method) {
        return NEEDS.entrySet().stream()
                .filter(e -> e.getValue().contains(method.name()))
                .map(Map.Entry::getKey)
                .findFirst()
                .orElse(method.verb().equals("GET") ? "LOOK" : null);
    }

    private static ProductClient.Answer call(ProductClient client, Method method) throws Exception {
        if (method.form()) {
            return client.uploading(method.address(), "nothing", Map.of("x.txt", new byte[] {1}));
        }
        Object body = method.verb().equals("GET") || method.verb().equals("DELETE") ? null : Map.of();
        return client.send(method.verb(), method.address(), body, Map.of());
    }

    @Test
    public void everyMethodThatChangesSomethingNamesItsRight() {
        Set<String> unnamed = new TreeSet<>();
        Set<String> named = new TreeSet<>();
        NEEDS.values().forEach(named::addAll);
        for (Method method : methods()) {
            named.remove(method.name());
            if (needed(method) == null) {
                unnamed.add(method.name());
            }
        }
        assertTrue(unnamed.isEmpty(), "say in this test what these need: " + unnamed);
        assertTrue(named.isEmpty(), "no longer in the API: " + named);
    }

    @Test
    public void whoDidNotSignInReachesOnlySigningIn() throws Exception {
        for (Method method : methods()) {
            ProductClient.Answer answer = call(new ProductClient(product.address()), method);
            if (needed(method).equals("NONE")) {
                assertNotEquals(answer.status(), 403, method.name());
            } else {
                assertEquals(answer.status(), 401, method.name() + " " + answer.text());
            }
        }
        for (String path : List.of("/q/openapi", "/q/openapi?format=json", "/api/nothing")) {
            int status = new ProductClient(product.address())
                    .send("GET", path, null, Map.of())
                    .status();
            assertTrue(status == 401 || status == 404, path + " " + status);
        }
        assertEquals(ada.send("GET", "/q/openapi", null, Map.of()).status(), 200);
    }

    @Test
    public void everyRightOpensItsMethodsAndNoOthers() throws Exception {
        Map<String, Map<String, Object>> roles = new LinkedHashMap<>();
        roles.put("LOOK", Map.of());
        roles.put("BUILD", Map.of("build", true));
        roles.put("RUN", Map.of("run", List.of("Test")));
        roles.put("MANAGE", Map.of("manage", true));
        for (Map.Entry<String, Map<String, Object>> role : roles.entrySet()) {
            String name = "a-" + role.getKey().toLowerCase(java.util.Locale.ROOT);
            ada.post("/api/people", Map.of("name", name, "password", PASSWORD, "rights", role.getValue()));
            ProductClient person = new ProductClient(product.address());
            person.signIn(name, PASSWORD);
            for (Method method : methods()) {
                String needed = needed(method);
                if (needed.equals("NONE")) {
                    continue;
                }
                ProductClient.Answer answer = call(person, method);
                boolean open = needed.equals("LOOK") || needed.equals(role.getKey());
                boolean refused = answer.status() == 403
                        && answer.json().path("code").asText().equals("not-allowed");
                assertEquals(refused, !open, role.getKey() + " at " + method.name() + ": " + answer.text());
                assertNotEquals(answer.status(), 401, method.name());
                assertTrue(answer.status() < 500, method.name() + " " + answer.text());
            }
        }
    }

    @Test
    public void runIsGivenForEachEnvironment() throws Exception {
        ada.post(
                "/api/people",
                Map.of("name", "tess", "password", PASSWORD, "rights", Map.of("run", List.of("Test"), "build", true)));
        ProductClient tess = new ProductClient(product.address());
        tess.signIn("tess", PASSWORD);
        long flow = tess.post("/api/flows", Map.of("name", "Of Tess")).get("id").asLong();
        for (String environment : List.of("Live", "Simulator", "Test")) {
            ProductClient.Answer answer =
                    tess.send("POST", "/api/flows/" + flow + "/runs", Map.of("environment", environment), Map.of());
            assertEquals(answer.status() == 403, !environment.equals("Test"), environment + " " + answer.text());
        }
    }

    @Test
    public void whatOthersMadeIsRemovedByThemAndByWhoManages() throws Exception {
        for (String name : List.of("mara", "nils")) {
            ada.post("/api/people", Map.of("name", name, "password", PASSWORD, "rights", Map.of("build", true)));
        }
        ProductClient mara = new ProductClient(product.address());
        mara.signIn("mara", PASSWORD);
        ProductClient nils = new ProductClient(product.address());
        nils.signIn("nils", PASSWORD);
        List<String> made = List.of(
                "/api/flows/"
                        + mara.post("/api/flows", Map.of("name", "Of Mara")).get("id"),
                "/api/datasets/"
                        + mara.post("/api/datasets", Map.of("name", "of mara", "kind", "csv"))
                                .get("id"),
                "/api/code-tables/"
                        + mara.post("/api/code-tables", Map.of("name", "of mara", "entries", List.of()))
                                .get("id"));
        for (String path : made) {
            ProductClient.Answer refused = nils.send("DELETE", path, null, Map.of());
            assertEquals(refused.status(), 403, path);
            assertTrue(refused.text().contains("made by mara"), refused.text());
        }
        assertTrue(mara.send("DELETE", made.get(0), null, Map.of()).status() < 300);
        assertTrue(ada.send("DELETE", made.get(1), null, Map.of()).status() < 300);
        assertTrue(mara.send("DELETE", made.get(2), null, Map.of()).status() < 300);
    }
}
