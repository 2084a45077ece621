package wirekettle.connect;

import de.siegmar.fastcsv.reader.CsvParseException;
import de.siegmar.fastcsv.reader.CsvReader;
import de.siegmar.fastcsv.reader.CsvRecord;
import java.io.IOException;
import java.io.InputStream;
import java.nio.ByteBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.Charset;
import java.nio.charset.CodingErrorAction;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import wirekettle.core.flow.file.DatasetSpec.CsvShape;
import wirekettle.core.value.Column;
import wirekettle.core.value.Layout;
import wirekettle.core.value.TypeInference;

/** Looks at a CSV file: how it is written, its layout, and rows that do not fit. Streams; memory stays bounded. */
public final class CsvLook {
    private static final int MOST_FINDINGS = 200;

    /**
     * Something wrong with one row.
     *
     * @param line the line in the file, from 1
     * @param message what and what follows
     */
    public record RowFinding(long line, String message) {}

    /**
     * What was seen.
     *
     * @param shape how the file is written
     * @param layout the fields with types inferred from all rows
     * @param rows how many records there are
     * @param findings rows that do not fit, at most 200
     * @param findingCount how many rows do not fit in all
     */
    public record Seen(CsvShape shape, Layout layout, long rows, List<RowFinding> findings, long findingCount) {}

    private CsvLook() {}

    /** Guesses the form of a file from its first 256 KB. */
    public static CsvShape shape(Path file) throws IOException {
        byte[] start;
        try (InputStream in = Files.newInputStream(file)) {
            start = in.readNBytes(256 << 10);
        }
        String charset = charset(start, Files.size(file) > start.length);
        String text = decode(start, charset);
        char quote = text.contains("\"") || !text.contains("'") ? '"' : '\'';
        char delimiter = delimiter(text, quote);
        return new CsvShape(String.valueOf(delimiter), String.valueOf(quote), charset, header(text, delimiter, quote));
    }

    private static String charset(byte[] start, boolean cut) {
        if (start.length >= 2 && (start[0] == (byte) 0xFF && start[1] == (byte) 0xFE)) {
            return "UTF-16LE";
        }
        if (start.length >= 2 && (start[0] == (byte) 0xFE && start[1] == (byte) 0xFF)) {
            return "UTF-16BE";
        }
        // the last bytes may cut a character in two
        int length = cut ? Math.max(0, start.length - 4) : start.length;
        try {
            StandardCharsets.UTF_8
                    .newDecoder()
                    .onMalformedInput(CodingErrorAction.REPORT)
                    .decode(ByteBuffer.wrap(start, 0, length));
            return "UTF-8";
        } catch (CharacterCodingException e) {
            for (int i = cut ? 1 : 4; i <= 3 && length > i; i++) {
                if ((start[length - i] & 0xC0) == 0xC0) {
                    return charset(java.util.Arrays.copyOf(start, length - i), false);
                }
            }
            return "windows-1252";
        }
    }

    private static String decode(byte[] bytes, String charset) {
        String text = new String(bytes, Charset.forName(charset));
        return text.startsWith("\uFEFF") ? text.substring(1) : text;
    }

    private static char delimiter(String text, char quote) {
        char best = ',';
        double bestScore = -1;
        for (char candidate : new char[] {',', ';', '\t', '|'}) {
            List<List<String>> rows = rows(text, candidate, quote, 50);
            if (rows.isEmpty()) {
                continue;
            }
            int fields = rows.get(0).size();
            long same = rows.stream().filter(r -> r.size() == fields).count();
            double score = fields < 2 ? 0 : same / (double) rows.size() * Math.log(fields + 1);
            if (score > bestScore) {
                best = candidate;
                bestScore = score;
            }
        }
        return best;
    }

    private static boolean header(String text, char delimiter, char quote) {
        List<List<String>> rows = rows(text, delimiter, quote, 30);
        if (rows.isEmpty()) {
            return true;
        }
        List<String> first = rows.get(0);
        boolean names = first.stream().allMatch(v -> !v.isBlank() && !v.strip().matches("[\\d.,:/+-]+"));
        return names && first.stream().distinct().count() == first.size();
    }

    private static List<List<String>> rows(String text, char delimiter, char quote, int most) {
        List<List<String>> rows = new ArrayList<>();
        try (CsvReader<CsvRecord> reader = builder(delimiter, quote).ofCsvRecord(text)) {
            for (CsvRecord record : reader) {
                rows.add(record.getFields());
                if (rows.size() >= most) {
                    break;
                }
            }
        } catch (IOException | CsvParseException e) {
            return rows;
        }
        return rows;
    }

    static CsvReader.CsvReaderBuilder builder(char delimiter, char quote) {
        return CsvReader.builder()
                .fieldSeparator(delimiter)
                .quoteCharacter(quote)
                .skipEmptyLines(true)
                .allowExtraFields(true)
                .allowMissingFields(true);
    }

    /** Reads the whole file once: names, types from all rows, and every row that does not fit. */
    public static Seen look(Path file, CsvShape shape) throws IOException {
        List<RowFinding> findings = new ArrayList<>();
        long[] found = {0};
        List<String> labels = new ArrayList<>();
        List<TypeInference> types = new ArrayList<>();
        long rows = 0;
        boolean mojibake = false;
        try (CsvSource source = new CsvSource(file, shape, null)) {
            labels.addAll(source.labels());
            labels.forEach(l -> types.add(new TypeInference()));
            for (CsvRecord row = source.row(); row != null; row = source.row()) {
                rows++;
                int fields = row.getFieldCount();
                if (fields != labels.size()) {
                    add(
                            findings,
                            found,
                            row.getStartingLineNumber(),
                            fields + " fields, the "
                                    + (shape.header() ? "header" : "first row") + " has " + labels.size()
                                    + (fields < labels.size()
                                            ? "; the missing ones are empty"
                                            : "; the row is rejected in a run"));
                }
                for (int i = 0; i < Math.min(fields, types.size()); i++) {
                    String value = row.getField(i);
                    types.get(i).look(value);
                    if (value.indexOf('\uFFFD') >= 0 && !mojibake) {
                        mojibake = true;
                        add(
                                findings,
                                found,
                                row.getStartingLineNumber(),
                                "“" + value + "” holds characters that are not " + shape.charset()
                                        + "; choose another charset");
                    }
                }
            }
        } catch (CsvParseException e) {
            add(findings, found, 0, "reading stopped: " + e.getMessage() + "; check the quote character");
        }
        List<String> names = Layout.safeNames(labels);
        List<Column> columns = new ArrayList<>();
        for (int i = 0; i < names.size(); i++) {
            columns.add(types.get(i).column(names.get(i), labels.get(i)));
        }
        return new Seen(shape, new Layout(columns), rows, findings, found[0]);
    }

    private static void add(List<RowFinding> findings, long[] found, long line, String message) {
        if (found[0]++ < MOST_FINDINGS) {
            findings.add(new RowFinding(line, message));
        }
    }
}
