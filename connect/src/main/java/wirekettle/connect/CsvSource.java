package wirekettle.connect;

import de.siegmar.fastcsv.reader.CsvParseException;
import de.siegmar.fastcsv.reader.CsvReader;
import de.siegmar.fastcsv.reader.CsvRecord;
import java.io.BufferedInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.InputStreamReader;
import java.io.Reader;
import java.nio.charset.Charset;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Iterator;
import java.util.List;
import java.util.stream.IntStream;
import wirekettle.core.flow.file.DatasetSpec.CsvShape;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.value.Layout;

/** Reads the records of a CSV file one after the other. */
public final class CsvSource implements RecordSource {
    private final Path file;
    private final Layout layout;
    private final CsvReader<CsvRecord> reader;
    private final Iterator<CsvRecord> records;
    private final List<String> labels;
    private CsvRecord pending;

    /** Opens a file; without a layout only {@link #row} may be used. */
    public CsvSource(Path file, CsvShape shape, Layout layout) throws IOException {
        this.file = file;
        this.layout = layout;
        reader = CsvLook.builder(shape.delimiter().charAt(0), shape.quote().charAt(0))
                .ofCsvRecord(text(file, shape));
        records = reader.iterator();
        CsvRecord first = records.hasNext() ? records.next() : null;
        if (first == null) {
            labels = List.of();
        } else if (shape.header()) {
            labels = first.getFields();
        } else {
            labels = IntStream.rangeClosed(1, first.getFieldCount())
                    .mapToObj(i -> "column " + i)
                    .toList();
            pending = first;
        }
    }

    private static Reader text(Path file, CsvShape shape) throws IOException {
        InputStream in = new BufferedInputStream(Files.newInputStream(file), 1 << 16);
        Reader text = new java.io.BufferedReader(new InputStreamReader(in, Charset.forName(shape.charset())));
        text.mark(1);
        if (text.read() != 0xFEFF) {
            text.reset();
        }
        return text;
    }

    List<String> labels() {
        return labels;
    }

    CsvRecord row() {
        if (pending != null) {
            CsvRecord row = pending;
            pending = null;
            return row;
        }
        return records.hasNext() ? records.next() : null;
    }

    @Override
    public Item next() throws IOException {
        try {
            CsvRecord row = row();
            if (row == null) {
                return null;
            }
            int fields = row.getFieldCount();
            String problem = fields <= layout.columns().size()
                    ? null
                    : "line " + row.getStartingLineNumber() + " has " + fields + " fields, the layout has "
                            + layout.columns().size();
            return new Item(layout.record("record", row.getFields()), problem);
        } catch (CsvParseException e) {
            throw new IOException(file.getFileName() + " cannot be read on: " + e.getMessage(), e);
        }
    }

    @Override
    public long size() {
        return -1;
    }

    @Override
    public String name() {
        return String.valueOf(file.getFileName());
    }

    @Override
    public void close() throws IOException {
        reader.close();
    }
}
