package wirekettle.benchmarks;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.Map;
import wirekettle.demo.ProductClient;

/** The flow that splits each record into three items with a call each, gathers them and writes two rows. */
final class SplitFlow {
    /** How many calls a record makes. */
    static final int CALLS = 3;

    private SplitFlow() {}

    /**
     * Makes it of the flow that is measured first.
     *
     * @param effect whether its calls read or change data
     */
    static long prepare(ProductClient client, int records, String effect) throws IOException {
        String name = "bench of items, " + effect;
        if (effect.equals("reads")) {
            client.upload("/api/datasets/files", "file", Map.of("crates.csv", crates(records)));
            client.post("/api/datasets", Map.of("name", "crates counted", "kind", "csv"));
        }
        ObjectNode file = client.get("/api/flows/1").get("file").deepCopy();
        file.put("name", name);
        file.remove("lane");
        ArrayNode stages = (ArrayNode) file.get("stages");
        ObjectNode read = (ObjectNode) stages.get(0);
        ObjectNode call = (ObjectNode) stages.get(1);
        read.put("dataset", "crates").putArray("groupBy").add("loan_no");
        read.put("as", "loan");
        ((ObjectNode) call.get("delivery")).put("effect", effect);
        ((ObjectNode) call.get("delivery")).putArray("failedWhen");
        for (JsonNode fill : call.get("fills")) {
            ObjectNode its = (ObjectNode) fill;
            if (its.path("wire").asText().startsWith("$loan/")) {
                its.put("wire", its.get("wire").asText().replace("$loan/", "$crate/"));
            }
        }
        ObjectNode split = file.objectNode().put("verb", "Split").put("id", "crates");
        split.put("over", "$loan/line").put("item", "crate").put("atOnce", CALLS);
        split.putArray("stages").add(call);
        split.putObject("gather").put("as", "crates").put("whenSomeFail", "reject");
        String found = "$crates/item/" + call.get("as").asText();
        ArrayNode made = file.putArray("stages").add(read).add(split);
        made.add(write(file, "names", "borrowers", "string-join(" + found + "/name, ' ')"));
        made.add(write(file, "count", "crates counted", "count($crates/item)"));
        JsonNode flow = client.post("/api/flows", Map.of("name", name, "file", file));
        if (!flow.get("problems").isEmpty()) {
            throw new AssertionError(flow.get("problems").toString());
        }
        return flow.get("id").asLong();
    }

    private static ObjectNode write(ObjectNode file, String id, String dataset, String expression) {
        ObjectNode write = file.objectNode().put("verb", "Write").put("id", id).put("dataset", dataset);
        write.put("mode", "replace").putArray("keys");
        ArrayNode columns = write.putArray("columns");
        ArrayNode fills = write.putArray("fills");
        for (String[] each : new String[][] {{"loan_no", "$loan/loan_no"}, {id, expression}}) {
            columns.addObject().put("name", each[0]).put("type", "string");
            fills.addObject().put("id", id + each[0]).put("target", each[0]).put("expression", each[1]);
        }
        return write;
    }

    private static byte[] crates(int records) {
        StringBuilder csv = new StringBuilder("loan_no;crate_no;institution_no;insured_value;collect_on\r\n");
        for (int i = 0; i < records * CALLS; i++) {
            csv.append("HC-").append(i / CALLS).append(";HC-").append(i / CALLS).append('-');
            csv.append(i % CALLS + 1).append(";RG-10400;").append(i).append(",5;04.12.2026\r\n");
        }
        return csv.toString().getBytes(StandardCharsets.UTF_8);
    }
}
