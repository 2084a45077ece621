package wirekettle.server.datasets;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Optional;
import wirekettle.core.flow.file.DatasetSpec;
import wirekettle.server.Database;
import wirekettle.server.web.Json;

/** Datasets in a database and a folder, for tests. */
public final class Datasets {
    private Datasets() {}

    /** Returns a store that keeps files in a folder and has no database for datasets. */
    public static DatasetStore over(Database database, Path folder) throws IOException {
        DatasetStore store = new DatasetStore();
        store.mapper = database.mapper(DatasetMapper.class);
        store.data = folder.toString();
        store.sqlUrl = Optional.empty();
        store.readerUser = Optional.empty();
        Files.createDirectories(folder.resolve("datasets"));
        return store;
    }

    /** Returns the folders of a store. */
    public static DatasetFolders folders(DatasetStore store) {
        DatasetFolders folders = new DatasetFolders();
        folders.mapper = store.mapper;
        folders.store = store;
        return folders;
    }

    /** Adds a CSV file and looks at it. */
    public static DatasetMapper.Row csv(DatasetStore store, String name, String content) throws IOException {
        DatasetSpec spec = new DatasetSpec(name, DatasetSpec.Kind.CSV, name + ".csv", null, null, null, null, null);
        long id = store.mapper.add(name, Json.write(spec), "ada");
        Files.writeString(store.file(spec), content);
        return store.look(id, spec);
    }
}
