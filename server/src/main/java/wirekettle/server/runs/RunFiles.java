package wirekettle.server.runs;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import wirekettle.core.flow.file.WriteStage;
import wirekettle.server.datasets.DatasetStore;
import wirekettle.server.ledger.RunMapper;

/** Where runs keep their files. */
@ApplicationScoped
class RunFiles {
    @Inject
    DatasetStore datasets;

    @Inject
    RunMapper runs;

    /** Returns the name of the file a run reads in the place of its dataset, empty for none. */
    String given(long id) {
        String file = runs.byId(id).file();
        return file == null ? "" : Path.of(file).getFileName().toString();
    }

    /** Where the rows of a query are kept: a run that sends records again reads those of the first. */
    Path rows(long id) {
        long first = id;
        for (Long origin = runs.byId(first).originRun();
                origin != null;
                origin = runs.byId(first).originRun()) {
            first = origin;
        }
        return datasets.data().resolve("runs").resolve(first + "-rows");
    }

    /** Removes the rows of a query once nothing can be sent again from them. */
    void forgetRows(long id) throws IOException {
        RunMapper.Row row = runs.byId(id);
        if (row.originRun() == null && row.ended().equals(row.read()) && row.open() == 0) {
            Files.deleteIfExists(rows(id));
        }
    }

    /** The results are what a run's page offers; other outputs stand beside them. */
    Path staged(long id, WriteStage target, boolean results) {
        String name = id + (results ? "" : "-" + target.id());
        String ending =
                target.document() == null ? ".csv" : "." + target.document().word();
        return datasets.data().resolve("runs").resolve(name + ending);
    }
}
