package wirekettle.core.schema;

import java.util.regex.PatternSyntaxException;

/**
 * An XML Schema regular expression in words that the engines here read alike: character classes with subtractions,
 * blocks and negated escapes are written out as ranges.
 */
final class PatternText {
    private final String source;
    private final StringBuilder out = new StringBuilder();
    private int at;
    private boolean nested;
    private long size;

    private PatternText(String source) {
        this.source = source;
    }

    /** Returns the text of an expression; throws {@link PatternSyntaxException} when it is not one. */
    static PatternText of(String expression) {
        PatternText text = new PatternText(expression);
        text.size = text.alternatives(0).size();
        if (text.at < expression.length()) {
            throw text.wrong("a closing bracket without an opening one");
        }
        return text;
    }

    /** Returns the expression for the engines. */
    String text() {
        return out.toString();
    }

    /** Returns how many characters, repeats written out, the expression has. */
    long size() {
        return size;
    }

    /** Tells whether something repeated is repeated again. */
    boolean nested() {
        return nested;
    }

    private PatternSyntaxException wrong(String why) {
        return new PatternSyntaxException(why, source, Math.min(at, source.length()));
    }

    /** A piece: how large it is with its repeats written out, and whether anything in it repeats. */
    private record Piece(long size, boolean repeats) {}

    private Piece alternatives(int depth) {
        if (depth > 200) {
            throw wrong("brackets in brackets deeper than 200");
        }
        long total = 0;
        boolean repeats = false;
        while (true) {
            while (at < source.length() && source.charAt(at) != '|' && source.charAt(at) != ')') {
                Piece piece = repeated(depth);
                total = Math.min(total + piece.size(), Integer.MAX_VALUE);
                repeats |= piece.repeats();
            }
            if (at >= source.length() || source.charAt(at) != '|') {
                return new Piece(total, repeats);
            }
            at++;
            out.append('|');
        }
    }

    private Piece repeated(int depth) {
        Piece atom = atom(depth);
        if (at >= source.length()) {
            return atom;
        }
        char c = source.charAt(at);
        if (c == '?' || c == '*' || c == '+') {
            at++;
            out.append(c);
            mustNotRepeatAgain();
            nested |= c != '?' && atom.repeats();
            return new Piece(atom.size() + 1, c != '?' || atom.repeats());
        }
        if (c != '{') {
            return atom;
        }
        int close = source.indexOf('}', at);
        String count = close < 0 ? "" : source.substring(at + 1, close);
        if (!count.matches("\\d{1,9}(,(\\d{1,9})?)?")) {
            throw wrong("no count of repeats");
        }
        at = close + 1;
        out.append('{').append(count).append('}');
        mustNotRepeatAgain();
        String last = count.replaceFirst(".*,", "");
        long most = last.isEmpty() ? Long.parseLong(count.replaceFirst(",.*", "")) + 1 : Long.parseLong(last);
        nested |= most > 1 && atom.repeats();
        return new Piece(Math.min(atom.size() * Math.max(1, most), Integer.MAX_VALUE), most > 1 || atom.repeats());
    }

    /** Behind a quantifier the engines would read another one as one of their own signs. */
    private void mustNotRepeatAgain() {
        if (at < source.length() && "?*+{".indexOf(source.charAt(at)) >= 0) {
            throw wrong("a repeat of nothing");
        }
    }

    private Piece atom(int depth) {
        char c = source.charAt(at);
        switch (c) {
            case '(' -> {
                at++;
                out.append("(?:");
                Piece inner = alternatives(depth + 1);
                if (at >= source.length()) {
                    throw wrong("an opening bracket without a closing one");
                }
                at++;
                out.append(')');
                return inner;
            }
            case '[' -> {
                CharacterClass set = CharacterClass.at(source, at);
                at = set.end();
                out.append(set.text());
            }
            case '\\' -> {
                CharacterClass set = CharacterClass.escape(source, at);
                at = set.end();
                out.append(set.text());
            }
            case '.' -> {
                at++;
                out.append("[^\\n\\r]");
            }
            case '?', '*', '+', '{', '}', ']' -> throw wrong("“" + c + "” without anything before it");
            default -> {
                int point = source.codePointAt(at);
                at += Character.charCount(point);
                out.append(CharacterClass.literal(point));
            }
        }
        return new Piece(1, false);
    }
}
