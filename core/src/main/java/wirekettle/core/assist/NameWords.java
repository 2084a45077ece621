package wirekettle.core.assist;

import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;

/** The words of names: split, stemmed, abbreviations spelled out, and how alike two words are. */
final class NameWords {
    /** Synonyms in names of data; the first of each represents the others. */
    private static final List<List<String>> SAME = List.of(
            List.of("number", "no", "nr", "nbr", "num", "id", "identifier", "key"),
            List.of("count", "quantity", "qty", "cnt"),
            List.of("city", "town"),
            List.of("zip", "postcode", "zipcode", "postalcode"),
            List.of("phone", "tel", "telephone", "phonenumber"),
            List.of("mobile", "cell", "cellphone"),
            List.of("email", "mail", "emailaddress"),
            List.of("first", "given", "fore", "forename", "fname", "firstname"),
            List.of("last", "family", "sur", "surname", "lname", "lastname"),
            List.of("remark", "note", "comment", "remarks"),
            List.of("date", "dt", "day", "on"),
            List.of("time", "at", "ts", "timestamp", "datetime"),
            List.of("start", "from", "begin"),
            List.of("end", "until", "to", "expire", "expiry"),
            List.of("amount", "amt", "sum"),
            List.of("value", "val"),
            List.of("weight", "wt", "kg", "kilogram", "kilo", "mass"),
            List.of("length", "len"),
            List.of("height", "hgt", "ht"),
            List.of("width", "wid"),
            List.of("country", "ctry"),
            List.of("currency", "cur", "ccy", "curr"),
            List.of("description", "desc", "text", "message", "msg"),
            List.of("reference", "ref"),
            List.of("address", "addr"),
            List.of("street", "line1"),
            List.of("organization", "organisation", "org"),
            List.of("color", "colour"),
            List.of("labor", "labour"),
            List.of("center", "centre"),
            List.of("licence", "license"),
            List.of("department", "dept"),
            List.of("manager", "mgr"),
            List.of("customer", "cust", "buyer", "client"),
            List.of("invoice", "inv"),
            List.of("registration", "reg"),
            List.of("website", "web", "url", "site"),
            List.of("birth", "birthday", "dob"),
            List.of("status", "state"),
            List.of("percent", "pct"),
            List.of("distance", "dist", "km"),
            List.of("duration", "minutes"),
            List.of("code", "cd"),
            List.of("name", "nm"),
            List.of("kind", "type"),
            List.of("minimum", "min"),
            List.of("maximum", "max"),
            List.of("language", "lang"),
            List.of("driver", "drv"),
            List.of("vehicle", "veh"),
            List.of("building", "bldg"),
            List.of("account", "acct"),
            List.of("arrival", "eta"),
            List.of("departure", "etd"),
            List.of("estimated", "est"));

    private static final Map<String, String> MEANS = new HashMap<>();

    /** Words for an identifier. */
    private static final Set<String> IDENTIFIES = Set.of("number", "reference", "code");

    /** Words that carry little meaning. */
    private static final Set<String> EMPTY =
            Set.of("of", "the", "is", "a", "an", "by", "and", "or", "in", "two", "three");

    static {
        for (List<String> group : SAME) {
            group.forEach(word -> MEANS.put(word, group.get(0)));
        }
    }

    private NameWords() {}

    /** Returns the words of a name in order, each as the one that stands for it. */
    static List<String> of(String name) {
        List<String> words = new ArrayList<>();
        String[] parts = name.split(
                "(?<=[\\p{Ll}\\p{N}])(?=\\p{Lu})|(?<=\\p{Lu})(?=\\p{Lu}\\p{Ll})|[^\\p{L}\\p{N}]+|(?<=\\p{L})(?=\\p{N})");
        for (int i = 0; i < parts.length; i++) {
            String word = parts[i].toLowerCase(Locale.ROOT);
            String both = i + 1 < parts.length ? word + parts[i + 1].toLowerCase(Locale.ROOT) : "";
            if (both.length() > 3 && MEANS.containsKey(both)) {
                words.add(MEANS.get(both));
                i++;
            } else if (!word.isEmpty() && !EMPTY.contains(word)) {
                words.add(meaning(word));
            }
        }
        return words;
    }

    private static String meaning(String word) {
        String known = MEANS.get(word);
        if (known != null) {
            return known;
        }
        String stem = stem(word);
        return MEANS.getOrDefault(stem, stem);
    }

    private static String stem(String word) {
        if (word.length() > 4 && word.endsWith("ies")) {
            return word.substring(0, word.length() - 3) + "y";
        }
        return word.length() > 3 && word.endsWith("s") && !word.endsWith("ss") && !word.endsWith("us")
                ? word.substring(0, word.length() - 1)
                : word;
    }

    /** Splits words that were written together where all parts are words seen elsewhere: {@code platenumber}. */
    static List<String> apart(List<String> words, Collection<String> seen) {
        Set<String> known = new HashSet<>(seen);
        known.addAll(MEANS.keySet());
        List<String> all = new ArrayList<>();
        for (String word : words) {
            List<String> parts = seen.contains(word) || word.length() < 5 ? List.of(word) : parts(word, known);
            parts.forEach(part -> all.add(meaning(part)));
        }
        return all;
    }

    private static List<String> parts(String word, Set<String> known) {
        for (int cut = word.length() - 2; cut >= 3; cut--) {
            String head = word.substring(0, cut);
            String tail = word.substring(cut);
            if (known.contains(head) && (known.contains(tail) || known.contains(stem(tail)))) {
                return List.of(head, tail);
            }
        }
        return List.of(word);
    }

    /**
     * Returns how alike two words are, from 0 to 1: the same, two names of what identifies something, one cut short,
     * one an abbreviation of the other.
     */
    static double alike(String a, String b) {
        if (a.equals(b)) {
            return 1;
        }
        if (IDENTIFIES.contains(a) && IDENTIFIES.contains(b)) {
            return 0.6;
        }
        String shorter = a.length() <= b.length() ? a : b;
        String longer = shorter.equals(a) ? b : a;
        if (shorter.length() < 3 || shorter.charAt(0) != longer.charAt(0)) {
            return 0;
        }
        if (longer.startsWith(shorter)) {
            return shorter.length() >= 4 || longer.length() <= 8 ? 0.9 : 0.85;
        }
        int shared = 0;
        while (shared < shorter.length() && shorter.charAt(shared) == longer.charAt(shared)) {
            shared++;
        }
        if (shared >= 4 && shared * 2 >= longer.length()) {
            return 0.4 + 0.5 * shared / longer.length();
        }
        return shorter.length() <= 5 && abbreviates(shorter, longer) ? 0.7 : 0;
    }

    /** Letters left out, most of them vowels, none moved. */
    private static boolean abbreviates(String shorter, String longer) {
        int at = 0;
        for (int i = 0; i < shorter.length(); i++) {
            at = longer.indexOf(shorter.charAt(i), at);
            if (at < 0) {
                return false;
            }
            at++;
        }
        long vowels =
                shorter.chars().skip(1).filter(c -> "aeiou".indexOf(c) >= 0).count();
        return vowels <= 1 && shorter.length() * 3 >= longer.length();
    }

    /** Returns the best likeness of a word to any of others. */
    static double best(String word, Collection<String> others) {
        double best = 0;
        for (String other : others) {
            best = Math.max(best, alike(word, other));
        }
        return best;
    }
}
