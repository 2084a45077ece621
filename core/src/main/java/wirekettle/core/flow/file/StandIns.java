package wirekettle.core.flow.file;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.util.List;
import java.util.Map;

/** Datasets and folders that stand for those a flow names, where it runs. */
public final class StandIns {
    private static final ObjectMapper JSON = new ObjectMapper();
    private static final List<String> NAMING = List.of("dataset", "folder");

    private StandIns() {}

    /**
     * Returns a flow that reads, looks up and writes what stands for the datasets it names.
     *
     * @param datasets what stands for a dataset or folder, by its name; what is not in it stays
     */
    public static FlowFile in(FlowFile file, Map<String, String> datasets) {
        if (datasets.isEmpty()) {
            return file;
        }
        try {
            JsonNode tree = JSON.valueToTree(file);
            replace(tree, datasets);
            return JSON.treeToValue(tree, FlowFile.class);
        } catch (JsonProcessingException e) {
            throw new IllegalStateException(e);
        }
    }

    private static void replace(JsonNode node, Map<String, String> datasets) {
        if (node instanceof ObjectNode object) {
            for (String name : NAMING) {
                JsonNode its = object.get(name);
                if (its != null && its.isTextual() && datasets.containsKey(its.asText())) {
                    object.put(name, datasets.get(its.asText()));
                }
            }
        }
        node.forEach(child -> replace(child, datasets));
    }
}
