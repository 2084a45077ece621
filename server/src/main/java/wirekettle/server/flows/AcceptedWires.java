package wirekettle.server.flows;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import wirekettle.core.fill.Fill;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.ReadStage;

/** Wires people kept between an operation and a dataset: they are proposed again for the same two. */
@ApplicationScoped
public class AcceptedWires {
    @Inject
    Store store;

    /** The wires in the database. */
    @Mapper
    public interface Store {
        /** A target and the field it was wired from. */
        record Row(String target, String wire) {}

        /** Returns what was kept, the wire without its variable. */
        @Select("select target, wire from accepted_wire"
                + " where contract = #{contract} and operation = #{operation} and dataset = #{dataset}")
        List<Row> of(
                @Param("contract") String contract,
                @Param("operation") String operation,
                @Param("dataset") String dataset);

        /** Keeps a wire. */
        @Insert("insert into accepted_wire (contract, operation, dataset, target, wire)"
                + " values (#{contract}, #{operation}, #{dataset}, #{target}, #{wire})"
                + " on conflict (contract, operation, dataset, target) do update set wire = excluded.wire,"
                + " accepted_at = now() where accepted_wire.wire <> excluded.wire")
        void keep(
                @Param("contract") String contract,
                @Param("operation") String operation,
                @Param("dataset") String dataset,
                @Param("target") String target,
                @Param("wire") String wire);
    }

    /** Returns what was kept for an operation and the dataset a flow reads: wires by target. */
    Map<String, String> of(CallStage call, ReadStage read) {
        Map<String, String> wires = new HashMap<>();
        if (known(call, read)) {
            for (Store.Row row : store.of(call.contract(), call.operation(), read.dataset())) {
                wires.put(row.target(), "$" + read.as() + "/" + row.wire());
            }
        }
        return wires;
    }

    private static boolean known(CallStage call, ReadStage read) {
        return call.contract() != null && call.operation() != null && read != null && read.dataset() != null;
    }

    /** Keeps the wires of a flow that was saved. */
    void keep(FlowFile file) {
        ReadStage read = file.source().orElse(null);
        file.all(CallStage.class).stream().filter(call -> known(call, read)).forEach(call -> keep(call, read));
    }

    private void keep(CallStage call, ReadStage read) {
        Map<String, String> before = new HashMap<>();
        store.of(call.contract(), call.operation(), read.dataset()).forEach(r -> before.put(r.target(), r.wire()));
        String start = "$" + read.as() + "/";
        for (Fill fill : call.fills()) {
            if (fill.wire() != null && fill.wire().startsWith(start)) {
                String wire = fill.wire().substring(start.length());
                if (!wire.equals(before.get(fill.target()))) {
                    store.keep(call.contract(), call.operation(), read.dataset(), fill.target(), wire);
                }
            }
        }
    }
}
