package wirekettle.connect;

import de.siegmar.fastcsv.reader.CsvReader;
import de.siegmar.fastcsv.reader.CsvRecord;
import de.siegmar.fastcsv.writer.CsvWriter;
import java.io.IOException;
import java.io.OutputStream;
import java.io.OutputStreamWriter;
import java.io.UncheckedIOException;
import java.io.Writer;
import java.nio.charset.Charset;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import org.apache.poi.openxml4j.util.ZipSecureFile;
import org.apache.poi.ss.usermodel.Cell;
import org.apache.poi.ss.usermodel.DataFormatter;
import org.apache.poi.ss.usermodel.Row;
import org.apache.poi.ss.usermodel.Sheet;
import org.apache.poi.ss.usermodel.Workbook;
import org.apache.poi.xssf.usermodel.XSSFWorkbook;
import wirekettle.core.flow.file.DatasetSpec.CsvShape;

/** Small tables in a file: CSV (RFC 4180) or the first sheet of an XLSX workbook (ECMA-376). */
public final class SheetFile {
    private static final int MOST_ROWS = 20_000;
    private static final int MOST_BYTES = 8 << 20;
    private static final byte[] ZIP = {'P', 'K', 3, 4};

    static {
        // a small file that unpacks to a huge one is refused
        ZipSecureFile.setMinInflateRatio(0.005);
        ZipSecureFile.setMaxEntrySize(64L << 20);
    }

    private SheetFile() {}

    /**
     * Reads all rows, texts as they are shown.
     *
     * @throws IOException saying what the file is not
     */
    public static List<List<String>> read(Path file) throws IOException {
        if (Files.size(file) > MOST_BYTES) {
            throw new IOException("the file is larger than 8 MB");
        }
        byte[] start;
        try (var in = Files.newInputStream(file)) {
            start = in.readNBytes(4);
        }
        return java.util.Arrays.equals(start, ZIP) ? workbook(file) : csv(file);
    }

    private static List<List<String>> workbook(Path file) throws IOException {
        List<List<String>> rows = new ArrayList<>();
        DataFormatter shown = new DataFormatter();
        try (var in = Files.newInputStream(file);
                Workbook workbook = new XSSFWorkbook(in)) {
            for (Row row : workbook.getSheetAt(0)) {
                List<String> texts = new ArrayList<>();
                for (int i = 0; i < Math.min(row.getLastCellNum(), 50); i++) {
                    Cell cell = row.getCell(i);
                    texts.add(cell == null ? "" : shown.formatCellValue(cell));
                }
                rows.add(texts);
                enough(rows);
            }
        } catch (RuntimeException e) {
            throw new IOException("it is no XLSX workbook that can be read: " + e.getMessage(), e);
        }
        return rows;
    }

    private static List<List<String>> csv(Path file) throws IOException {
        CsvShape shape = CsvLook.shape(file);
        List<List<String>> rows = new ArrayList<>();
        try (CsvReader<CsvRecord> reader = CsvReader.builder()
                .fieldSeparator(shape.delimiter().charAt(0))
                .quoteCharacter(shape.quote().charAt(0))
                .allowExtraFields(true)
                .allowMissingFields(true)
                .ofCsvRecord(file, Charset.forName(shape.charset()))) {
            for (CsvRecord line : reader) {
                rows.add(line.getFields());
                enough(rows);
            }
        } catch (UncheckedIOException | de.siegmar.fastcsv.reader.CsvParseException e) {
            throw new IOException("it cannot be read as CSV: " + e.getMessage(), e);
        }
        return rows;
    }

    private static void enough(List<List<String>> rows) throws IOException {
        if (rows.size() > MOST_ROWS) {
            throw new IOException("it has more than " + MOST_ROWS + " rows");
        }
    }

    /** Writes rows as CSV, in UTF-8. */
    public static void csv(List<List<String>> rows, OutputStream out) throws IOException {
        Writer text = new OutputStreamWriter(out, StandardCharsets.UTF_8);
        CsvWriter writer = CsvWriter.builder().build(text);
        rows.forEach(row -> writer.writeRecord(row.toArray(String[]::new)));
        writer.flush();
        text.flush();
    }

    /** Writes rows as the only sheet of a workbook; the first row stays in sight. */
    public static void workbook(List<List<String>> rows, String name, OutputStream out) throws IOException {
        try (XSSFWorkbook workbook = new XSSFWorkbook()) {
            Sheet sheet = workbook.createSheet(name);
            for (int r = 0; r < rows.size(); r++) {
                Row row = sheet.createRow(r);
                for (int c = 0; c < rows.get(r).size(); c++) {
                    row.createCell(c).setCellValue(rows.get(r).get(c));
                }
            }
            sheet.createFreezePane(0, 1);
            int[] widths = {40, 40, 30, 40};
            for (int c = 0; c < widths.length; c++) {
                sheet.setColumnWidth(c, widths[c] * 256);
            }
            workbook.write(out);
        }
    }
}
