package wirekettle.server.codes;

import com.fasterxml.jackson.core.type.TypeReference;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.fill.Fill;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.LookUpStage;
import wirekettle.core.value.CodeTable;
import wirekettle.server.web.Json;

/** The code tables flows look values up in. */
@ApplicationScoped
public class CodeTables {
    @Inject
    CodeTableMapper mapper;

    static CodeTable table(CodeTableMapper.Row row) {
        List<CodeTable.Entry> entries = Json.read(row.entries(), new TypeReference<List<CodeTable.Entry>>() {});
        return new CodeTable(row.name(), row.otherwise(), entries);
    }

    /** Returns the tables a flow names, those that are there. */
    public Map<String, CodeTable> of(FlowFile file) {
        Map<String, CodeTable> found = new HashMap<>();
        for (Fill fill : file.fills()) {
            add(fill.lookUp() == null ? null : fill.lookUp().table(), found);
        }
        file.all(LookUpStage.class).forEach(stage -> add(stage.codes(), found));
        return found;
    }

    private void add(String name, Map<String, CodeTable> into) {
        CodeTableMapper.Row row = name == null || into.containsKey(name) ? null : mapper.byName(name);
        if (row != null) {
            into.put(name, table(row));
        }
    }
}
