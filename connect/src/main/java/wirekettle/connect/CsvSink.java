package wirekettle.connect;

import de.siegmar.fastcsv.writer.CsvWriter;
import de.siegmar.fastcsv.writer.LineDelimiter;
import java.io.BufferedWriter;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.OutputStream;
import java.io.OutputStreamWriter;
import java.io.Writer;
import java.nio.charset.Charset;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.List;
import wirekettle.core.flow.file.DatasetSpec.CsvShape;
import wirekettle.core.flow.run.RecordSink;

/** Writes rows to a staged CSV file that takes its place, or is appended, when the run ends. */
public final class CsvSink implements RecordSink {
    private final StagedFile file;
    private final Path staged;
    private final BufferedWriter text;
    private final CsvWriter writer;
    private final long headerBytes;

    /** Begins a staged file. */
    public CsvSink(Path target, Path staged, CsvShape shape, List<String> columns, boolean append) throws IOException {
        this(target, staged, shape, columns, append, 0);
    }

    /**
     * Opens a staged file.
     *
     * @param target where the result goes, null to leave it staged
     * @param staged where rows are collected
     * @param append whether rows are added to what the target has, else it is replaced
     * @param from the position from which a run goes on, 0 to begin
     */
    public CsvSink(Path target, Path staged, CsvShape shape, List<String> columns, boolean append, long from)
            throws IOException {
        this.file = new StagedFile(target, staged, append, from);
        this.staged = staged;
        byte[] header = header(shape, columns);
        this.headerBytes = header.length;
        if (from == 0) {
            file.write(header, 0, header.length);
        }
        Charset charset = Charset.forName(shape.charset());
        boolean marked = charset.equals(StandardCharsets.UTF_16) && file.count() > 0;
        // the mark of the byte order stands at the beginning only
        text = new BufferedWriter(new OutputStreamWriter(file, marked ? StandardCharsets.UTF_16BE : charset), 1 << 16);
        writer = writer(shape, text);
    }

    private static CsvWriter writer(CsvShape shape, Writer to) {
        return CsvWriter.builder()
                .fieldSeparator(shape.delimiter().charAt(0))
                .quoteCharacter(shape.quote().charAt(0))
                .lineDelimiter(LineDelimiter.CRLF)
                .build(to);
    }

    private static byte[] header(CsvShape shape, List<String> columns) throws IOException {
        ByteArrayOutputStream bytes = new ByteArrayOutputStream();
        if (shape.header()) {
            try (CsvWriter writer = writer(shape, new OutputStreamWriter(bytes, Charset.forName(shape.charset())))) {
                writer.writeRecord(columns);
            }
        }
        return bytes.toByteArray();
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
    public void flush() throws IOException {
        writer.flush();
        text.flush();
        file.force();
    }

    @Override
    public long position() {
        return file.count();
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
}
