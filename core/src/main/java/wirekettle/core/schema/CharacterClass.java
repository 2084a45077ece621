package wirekettle.core.schema;

import java.util.ArrayList;
import java.util.List;
import java.util.function.IntPredicate;
import java.util.function.Predicate;
import java.util.regex.Pattern;
import java.util.regex.PatternSyntaxException;

/**
 * A character class of an XML Schema regular expression (part 2, appendix F.1), with subtractions in subtractions.
 *
 * @param text the class for the engines
 * @param end where it ends in the expression
 */
record CharacterClass(String text, int end) {
    private static final String NAME_START = "\\p{L}_:";
    private static final String NAME_CHAR = "\\p{L}\\p{N}\\p{M}._:\\-\u00B7";
    private static final String WORD = "\\p{L}\\p{M}\\p{N}\\p{S}";
    private static final String NO_WORD = "\\p{P}\\p{Z}\\p{C}";
    private static final String SPACE = " \\t\\n\\r";

    /** Returns the class that begins with a bracket; throws {@link PatternSyntaxException} when it is none. */
    static CharacterClass at(String source, int from) {
        Reading reading = new Reading(source, from);
        IntPredicate holds = reading.group();
        return new CharacterClass(reading.plain == null ? ranges(holds) : "[" + reading.plain + "]", reading.at);
    }

    /** Returns what an escape outside of brackets stands for. */
    static CharacterClass escape(String source, int from) {
        Reading reading = new Reading(source, from);
        reading.escaped();
        String plain = reading.plain.toString();
        boolean several = plain.startsWith("\\p") || plain.startsWith("\\P") || plain.equals(SPACE);
        return new CharacterClass(several ? "[" + plain + "]" : plain, reading.at);
    }

    /** Returns a character as the engines read it. */
    static String literal(int point) {
        boolean plain = point < 0x80 && Character.isLetterOrDigit(point)
                || point > 0x80 && Character.isLetter(point)
                || " _,:;=!\"'%&<>@~`#/".indexOf(point) >= 0;
        return plain ? Character.toString(point) : "\\x{" + Integer.toHexString(point) + "}";
    }

    /** Writes the characters a condition holds for as ranges. */
    private static String ranges(IntPredicate holds) {
        StringBuilder out = new StringBuilder("[");
        int from = -1;
        for (int point = 0; point <= Character.MAX_CODE_POINT + 1; point++) {
            boolean in = point <= Character.MAX_CODE_POINT
                    && !(point >= Character.MIN_SURROGATE && point <= Character.MAX_SURROGATE)
                    && holds.test(point);
            if (in && from < 0) {
                from = point;
            } else if (!in && from >= 0) {
                out.append("\\x{").append(Integer.toHexString(from)).append("}-\\x{");
                out.append(Integer.toHexString(point - 1)).append('}');
                from = -1;
            }
        }
        // a class without any character: nothing can match it
        return out.length() == 1 ? "[^\\x{0}-\\x{10ffff}]" : out.append(']').toString();
    }

    /** Reads one class from left to right. */
    private static final class Reading {
        private final String source;
        private int at;
        private boolean bracketed;
        // what has been read as the engines read it, null where it must be written out
        private StringBuilder plain = new StringBuilder();

        Reading(String source, int from) {
            this.source = source;
            this.at = from;
        }

        private PatternSyntaxException wrong(String why) {
            return new PatternSyntaxException(why, source, Math.min(at, source.length()));
        }

        private char next() {
            if (at >= source.length()) {
                throw wrong("a class that is not closed");
            }
            return source.charAt(at);
        }

        /** Reads a class from its bracket to the closing one. */
        IntPredicate group() {
            bracketed = true;
            at++;
            boolean negated = next() == '^';
            if (negated) {
                at++;
                add("^");
            }
            List<IntPredicate> parts = new ArrayList<>();
            IntPredicate without = null;
            while (next() != ']') {
                if (next() == '-' && at + 1 < source.length() && source.charAt(at + 1) == '[') {
                    at++;
                    without = group();
                    plain = null;
                    if (next() != ']') {
                        throw wrong("something behind a subtraction");
                    }
                    break;
                }
                parts.add(part());
            }
            at++;
            if (parts.isEmpty()) {
                throw wrong("a class of nothing");
            }
            IntPredicate taken = without;
            return point -> parts.stream().anyMatch(part -> part.test(point)) != negated
                    && (taken == null || !taken.test(point));
        }

        private void add(String text) {
            if (plain != null) {
                plain.append(text);
            }
        }

        private IntPredicate part() {
            if (next() == '[') {
                throw wrong("a class in a class that is no subtraction");
            }
            boolean several =
                    next() == '\\' && at + 1 < source.length() && "sSiIcCdDwWpP".indexOf(source.charAt(at + 1)) >= 0;
            if (several) {
                return escaped();
            }
            int first = single();
            boolean range = at + 1 < source.length()
                    && source.charAt(at) == '-'
                    && source.charAt(at + 1) != ']'
                    && source.charAt(at + 1) != '[';
            if (!range) {
                add(literal(first));
                return point -> point == first;
            }
            at++;
            int last = single();
            if (last < first) {
                throw wrong("a range that ends before it begins");
            }
            add(literal(first) + "-" + literal(last));
            return point -> point >= first && point <= last;
        }

        private int single() {
            int point = source.codePointAt(at);
            at += Character.charCount(point);
            if (point != '\\') {
                return point;
            }
            char escaped = next();
            at++;
            return switch (escaped) {
                case 'n' -> '\n';
                case 'r' -> '\r';
                case 't' -> '\t';
                case '\\', '|', '.', '?', '*', '+', '(', ')', '{', '}', '-', '[', ']', '^' -> escaped;
                default -> {
                    if (Character.isLetterOrDigit(escaped)) {
                        throw wrong("\\" + escaped + " is no escape");
                    }
                    yield escaped;
                }
            };
        }

        /** Reads an escape; one for several characters is a condition on them. */
        IntPredicate escaped() {
            if (at + 1 >= source.length()) {
                throw wrong("a \\ with nothing behind it");
            }
            char kind = source.charAt(at + 1);
            if (kind == 'p' || kind == 'P') {
                return property(kind == 'P');
            }
            String set = set(Character.toLowerCase(kind));
            if (set == null) {
                int point = single();
                add(literal(point));
                return p -> p == point;
            }
            at += 2;
            if (Character.isLowerCase(kind)) {
                add(set);
                return condition("[" + set + "]");
            }
            switch (kind) {
                case 'D' -> add("\\P{Nd}");
                case 'W' -> add(NO_WORD);
                default -> addAlone("[^" + set + "]");
            }
            return kind == 'W' ? condition("[" + NO_WORD + "]") : condition("[^" + set + "]");
        }

        private static String set(char kind) {
            return switch (kind) {
                case 's' -> SPACE;
                case 'i' -> NAME_START;
                case 'c' -> NAME_CHAR;
                case 'd' -> "\\p{Nd}";
                case 'w' -> WORD;
                default -> null;
            };
        }

        /** Reads a category or a block. */
        private IntPredicate property(boolean negated) {
            int close = source.indexOf('}', at);
            if (close < 0 || source.charAt(Math.min(source.length() - 1, at + 2)) != '{') {
                throw wrong("a category without its name in curly brackets");
            }
            String name = source.substring(at + 3, close);
            at = close + 1;
            boolean block = name.startsWith("Is");
            String java = (negated ? "\\P{" : "\\p{") + (block ? "In" + name.substring(2) : name) + "}";
            IntPredicate holds = condition(java);
            if (block) {
                addAlone(bracketed ? "" : ranges(holds));
            } else {
                add(java);
            }
            return holds;
        }

        /** Adds what cannot stand beside others in a class: there it is written out. */
        private void addAlone(String text) {
            if (bracketed) {
                plain = null;
            } else {
                add(text);
            }
        }

        private static IntPredicate condition(String java) {
            Predicate<String> matches = Pattern.compile(java).asMatchPredicate();
            return point -> matches.test(Character.toString(point));
        }
    }
}
