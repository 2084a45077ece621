package wirekettle.server.datasets;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.io.IOException;
import java.nio.file.Path;
import java.util.HashSet;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import wirekettle.connect.FolderFiles;
import wirekettle.core.flow.file.DatasetSpec;
import wirekettle.core.soap.attachments.Folders;
import wirekettle.core.value.Content;

/** The folder datasets, as fills and messages name them. */
@ApplicationScoped
public class DatasetFolders implements Folders {
    @Inject
    DatasetMapper mapper;

    @Inject
    DatasetStore store;

    // asked for every record; forgotten when a dataset is added or removed
    private final Map<String, FolderFiles> known = new ConcurrentHashMap<>();

    /** Returns those of some names that are folders. */
    public Set<String> among(Set<String> names) {
        Set<String> found = new HashSet<>();
        for (String name : names) {
            DatasetMapper.Row row = mapper.byName(name);
            if (row != null && DatasetStore.folder(DatasetStore.spec(row))) {
                found.add(name);
            }
        }
        return found;
    }

    /** Forgets which folders there are. */
    void forget() {
        known.clear();
    }

    private Folders named(String name) throws NoSuchFile {
        FolderFiles files = known.get(name);
        if (files == null) {
            DatasetMapper.Row row = mapper.byName(name);
            DatasetSpec spec = row == null ? null : DatasetStore.spec(row);
            if (spec == null || !DatasetStore.folder(spec)) {
                throw NoSuchFile.folder(name);
            }
            Path path = store.file(spec);
            files = new FolderFiles(Map.of(name, path));
            known.put(name, files);
        }
        return files;
    }

    @Override
    public Content file(String folder, String name) throws NoSuchFile {
        return named(folder).file(folder, name);
    }

    @Override
    public Kept keep(String folder, String name, Content content) throws NoSuchFile, IOException {
        return named(folder).keep(folder, name, content);
    }

    @Override
    public void remove(String folder, String name) throws IOException {
        try {
            named(folder).remove(folder, name);
        } catch (NoSuchFile e) {
            throw new IOException(e.getMessage(), e);
        }
    }
}
