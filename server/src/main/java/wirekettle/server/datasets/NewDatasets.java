package wirekettle.server.datasets;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import wirekettle.connect.FolderSource;
import wirekettle.core.flow.file.DatasetSpec;
import wirekettle.core.flow.file.DatasetSpec.CsvShape;
import wirekettle.core.flow.file.DatasetSpec.Kind;
import wirekettle.core.value.Layout;
import wirekettle.server.datasets.DatasetResource.NewDataset;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.web.Edits;
import wirekettle.server.web.Json;

/** Adds datasets. */
@ApplicationScoped
public class NewDatasets {
    @Inject
    DatasetMapper mapper;

    @Inject
    DatasetStore store;

    @Inject
    DatasetFolders folders;

    @Inject
    CurrentPerson current;

    /** Writes a dataset's file. */
    public interface Filling {
        /** Writes it. */
        void into(Path target) throws IOException;
    }

    /** Adds a dataset whose file is written on the spot; nothing is left of it when that cannot be read. */
    public DatasetMapper.Row keep(String name, Filling filling) throws IOException {
        long id = add(new NewDataset(name, Kind.CSV, null, null, null, null));
        DatasetSpec spec = DatasetStore.spec(mapper.byId(id));
        Path target = store.file(spec);
        Files.createDirectories(target.getParent());
        try {
            filling.into(target);
            DatasetSpec unseen = new DatasetSpec(spec.name(), Kind.CSV, spec.file(), null, null, null, null, null);
            return store.look(id, unseen);
        } catch (IOException | RuntimeException e) {
            mapper.remove(id);
            Files.deleteIfExists(target);
            throw e;
        }
    }

    /** Adds a dataset under its name, or with a number after it where that is taken; returns its id. */
    public long add(NewDataset given) {
        String name = Edits.name("A dataset", given.name());
        boolean sql = given.kind().sql();
        boolean folder = given.kind() == Kind.FOLDER;
        boolean queue = given.kind() == Kind.QUEUE;
        String ending = folder ? ".files" : "." + given.kind().word();
        CsvShape csv = given.kind() == Kind.CSV ? (given.csv() == null ? CsvShape.DEFAULT : given.csv()) : null;
        String connection = sql ? "warehouse" : null;
        folders.forget();
        Layout layout = folder ? FolderSource.LAYOUT : null;
        DatasetSpec spec = null;
        Long id = null;
        for (int n = 1; id == null; n++) {
            String free = n == 1 ? name : name + " " + n;
            spec = new DatasetSpec(
                    free,
                    given.kind(),
                    null,
                    csv,
                    connection,
                    given.table(),
                    given.query(),
                    layout,
                    queue ? given.queue() : null);
            id = mapper.add(free, Json.write(spec), current.name());
        }
        if (!sql && !queue) {
            mapper.spec(id, Json.write(spec.at(DatasetStore.fileName(spec.name(), id, ending))));
        }
        return id;
    }
}
