package wirekettle.demo;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Base64;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;

/**
 * Looks for the values of the demo's secrets where none may be: plain, escaped for XML, JSON or an address, in base64
 * at any offset, in hexadecimal, and in the header of a basic login.
 */
public final class SecretSearch {
    /** Every value that may be written as a secret in a test. */
    public static final List<String> SECRETS =
            List.of(DemoLogins.PASSWORD, DemoLogins.TOKEN_PASSWORD, DemoLogins.CLIENT_SECRET, DemoLogins.FIXED_TOKEN);

    private static final Map<String, String> FORMS = forms();

    private SecretSearch() {}

    private static Map<String, String> forms() {
        Map<String, String> forms = new LinkedHashMap<>();
        for (String secret : SECRETS) {
            byte[] bytes = secret.getBytes(StandardCharsets.UTF_8);
            forms.put(secret, "plain");
            forms.put(secret.replace("&", "&amp;").replace("<", "&lt;"), "escaped for XML");
            forms.put(secret.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;"), "escaped for XML");
            forms.put(secret.replace("\\", "\\\\").replace("\"", "\\\""), "escaped for JSON");
            forms.put(URLEncoder.encode(secret, StandardCharsets.UTF_8), "escaped for an address");
            forms.put(URLEncoder.encode(secret, StandardCharsets.UTF_8).replace("+", "%20"), "escaped for an address");
            forms.put(HexFormat.of().formatHex(bytes), "in hexadecimal");
            for (String user : List.of(DemoLogins.USER, DemoLogins.CLIENT)) {
                forms.put(
                        Base64.getEncoder().encodeToString((user + ":" + secret).getBytes(StandardCharsets.UTF_8)),
                        "in a basic login");
            }
            for (int before = 0; before < 3; before++) {
                // the whole groups inside, whatever stands before and after
                int from = before == 0 ? 0 : 3 - before;
                int groups = (bytes.length - from) / 3;
                byte[] inside = java.util.Arrays.copyOfRange(bytes, from, from + groups * 3);
                forms.put(Base64.getEncoder().encodeToString(inside), "in base64");
            }
        }
        return forms;
    }

    /** Returns what of a text is a secret, as a sentence; null when nothing is. */
    public static String in(String text) {
        for (Map.Entry<String, String> form : FORMS.entrySet()) {
            int at = text.indexOf(form.getKey());
            if (at >= 0) {
                return "a secret stands there " + form.getValue() + ": …"
                        + text.substring(Math.max(0, at - 60), Math.min(text.length(), at + 80)) + "…";
            }
        }
        return null;
    }

    /** Searches every column of every table, and every file of a folder; returns what was found. */
    public static List<String> everywhere(Connection database, Path folder) throws SQLException, IOException {
        List<String> found = new ArrayList<>();
        List<String[]> columns = new ArrayList<>();
        try (Statement statement = database.createStatement();
                ResultSet rows = statement.executeQuery("select table_name, column_name from information_schema.columns"
                        + " where table_schema = 'public' order by 1, ordinal_position")) {
            while (rows.next()) {
                columns.add(new String[] {rows.getString(1), rows.getString(2)});
            }
        }
        for (String[] column : columns) {
            try (Statement statement = database.createStatement();
                    ResultSet rows =
                            statement.executeQuery("select \"" + column[1] + "\"::text from \"" + column[0] + "\"")) {
                while (rows.next()) {
                    String what = rows.getString(1) == null ? null : in(rows.getString(1));
                    if (what != null) {
                        found.add(column[0] + "." + column[1] + ": " + what);
                    }
                }
            }
        }
        try (Stream<Path> files = Files.walk(folder)) {
            files.filter(Files::isRegularFile).forEach(file -> {
                try {
                    String what = in(new String(Files.readAllBytes(file), StandardCharsets.UTF_8));
                    if (what != null) {
                        found.add(file.getFileName() + ": " + what);
                    }
                } catch (IOException e) {
                    throw new UncheckedIOException(e);
                }
            });
        }
        return found;
    }
}
