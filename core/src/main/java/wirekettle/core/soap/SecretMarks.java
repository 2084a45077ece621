package wirekettle.core.soap;

import java.util.ArrayList;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import wirekettle.core.soap.security.Secrets;
import wirekettle.core.value.XmlText;

/** Places in a text where the value of a secret stands: {@code {secret:name}}. */
final class SecretMarks {
    private static final Pattern MARK = Pattern.compile("\\{secret:([^{}]+)}");

    private SecretMarks() {}

    /** Returns the names of the secrets a text uses. */
    static List<String> names(String text) {
        List<String> names = new ArrayList<>();
        Matcher marks = MARK.matcher(text);
        while (marks.find()) {
            names.add(marks.group(1).strip());
        }
        return names;
    }

    /** Returns XML text with the secrets' values in it, escaped. */
    static String filled(String xml, Secrets secrets) {
        return MARK.matcher(xml)
                .replaceAll(mark -> Matcher.quoteReplacement(
                        XmlText.escape(secrets.text(mark.group(1).strip()))));
    }
}
