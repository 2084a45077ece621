package wirekettle.connect;

import de.siegmar.fastcsv.writer.CsvWriter;
import de.siegmar.fastcsv.writer.LineDelimiter;
import java.io.BufferedWriter;
import java.io.IOException;
import java.io.OutputStream;
import java.io.OutputStreamWriter;
import java.nio.charset.Charset;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.List;
import java.util.Map;
import wirekettle.core.flow.file.DatasetSpec.CsvShape;
import wirekettle.core.flow.run.RecordSink;

/** Writes rows to a staged CSV file that takes its place, or is appended, when the run ends. */
public final class CsvSink implements RecordSink {
    private final StagedFile file;
    private final Path staged;
    private final boolean header;
    private final Counting out;
    private final BufferedWriter text;
    private final CsvWriter writer;
    private long headerBytes;

    /**
     * Opens the staged file.
     *
     * @param target where the result goes, null to leave it staged
     * @param staged where rows are collected
     * @param append whether rows are added to what the target has, else it is replaced
     */
    public CsvSink(Path target, Path staged, CsvShape shape, List<String> columns, boolean append) throws IOException {
        this.file = new StagedFile(target, staged, append);
        this.staged = staged;
        this.header = shape.header();
        out = new Counting(Files.newOutputStream(staged));
        text = new BufferedWriter(new OutputStreamWriter(out, Charset.forName(shape.charset())), 1 << 16);
        writer = CsvWriter.builder()
                .fieldSeparator(shape.delimiter().charAt(0))
                .quoteCharacter(shape.quote().charAt(0))
                .lineDelimiter(LineDelimiter.CRLF)
                .build(text);
        if (header) {
            writer.writeRecord(columns);
            flush();
            headerBytes = out.count;
        }
    }

    @Override
    public void write(long ordinal, List<String[]> rows) {
        for (String[] row : rows) {
            String[] values = row.clone();
            for (int i = 0; i < values.length; i++) {
                values[i] = values[i] == null ? "" : values[i];
            }
            writer.writeRecord(values);
        }
    }

    @Override
    public Map<Long, String> flush() throws IOException {
        writer.flush();
        text.flush();
        return Map.of();
    }

    @Override
    public long offset() {
        return out.count;
    }

    @Override
    public void finish() throws IOException {
        flush();
        file.takePlace(target -> {
            try (OutputStream into = Files.newOutputStream(target, StandardOpenOption.APPEND);
                    var from = Files.newInputStream(staged)) {
                from.skipNBytes(headerBytes);
                from.transferTo(into);
            }
        });
    }

    @Override
    public void leave() throws IOException {
        flush();
    }

    @Override
    public void close() throws IOException {
        writer.close();
    }

    private static final class Counting extends OutputStream {
        private final OutputStream to;
        private long count;

        Counting(OutputStream to) {
            this.to = to;
        }

        @Override
        public void write(int b) throws IOException {
            to.write(b);
            count++;
        }

        @Override
        public void write(byte[] bytes, int from, int length) throws IOException {
            to.write(bytes, from, length);
            count += length;
        }

        @Override
        public void flush() throws IOException {
            to.flush();
        }

        @Override
        public void close() throws IOException {
            to.close();
        }
    }
}
