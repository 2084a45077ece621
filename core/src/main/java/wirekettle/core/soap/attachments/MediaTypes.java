package wirekettle.core.soap.attachments;

import java.util.Locale;
import java.util.Map;
import java.util.TreeMap;

/** The media types of files by the endings of their names, and back. */
public final class MediaTypes {
    /** What is known of any bytes. */
    public static final String ANY = "application/octet-stream";

    private static final Map<String, String> BY_ENDING = new TreeMap<>(Map.ofEntries(
            Map.entry("csv", "text/csv"),
            Map.entry("gif", "image/gif"),
            Map.entry("html", "text/html"),
            Map.entry("jpg", "image/jpeg"),
            Map.entry("json", "application/json"),
            Map.entry("pdf", "application/pdf"),
            Map.entry("png", "image/png"),
            Map.entry("svg", "image/svg+xml"),
            Map.entry("tif", "image/tiff"),
            Map.entry("txt", "text/plain"),
            Map.entry("xml", "text/xml"),
            Map.entry("zip", "application/zip")));

    private MediaTypes() {}

    /** Returns the media type a file's name tells, {@link #ANY} when it tells none. */
    public static String of(String name) {
        String ending = name.substring(name.lastIndexOf('.') + 1).toLowerCase(Locale.ROOT);
        ending = ending.equals("jpeg") ? "jpg" : ending.equals("tiff") ? "tif" : ending.equals("htm") ? "html" : ending;
        return BY_ENDING.getOrDefault(ending, ANY);
    }

    /** Returns the ending of names for a media type with its dot; .bin for one that is not known. */
    public static String ending(String type) {
        String bare = type == null ? "" : type.replaceAll(";.*", "").strip().toLowerCase(Locale.ROOT);
        return BY_ENDING.entrySet().stream()
                .filter(e -> e.getValue().equals(bare))
                .map(e -> "." + e.getKey())
                .findFirst()
                .orElse(bare.equals("application/xml") ? ".xml" : ".bin");
    }
}
