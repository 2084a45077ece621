package wirekettle.core.expression;

import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** The expression engine's errors, in words for the people who typed the expression. */
final class EngineWords {
    private static final Pattern NO_FUNCTION =
            Pattern.compile("Cannot find an? (\\d+)-argument function named ([^\\s(]+)\\(\\).*");
    private static final Pattern FUNCTION_TOLD = Pattern.compile("there is no function ([^\\s(]+)\\(\\)");

    private EngineWords() {}

    /** Returns a message in plain words; one that is plain already stays as it is. */
    static String plain(String message) {
        String text = message.replaceAll("Q\\{[^}]*}", "")
                .replaceFirst("^net\\.sf\\.saxon\\.s9api\\.SaxonApiException: ", "")
                .replaceAll("\\s+", " ")
                .strip();
        Matcher function = NO_FUNCTION.matcher(text);
        if (function.matches()) {
            String count = function.group(1);
            return "there is no function " + function.group(2) + "() of " + count
                    + (count.equals("1") ? " argument" : " arguments");
        }
        return text.replaceAll("^Unexpected token <eof>.*", "it is not finished: something is missing at its end")
                .replace("found <eof>", "but it ends there")
                .replace("Unmatched quote in expression", "a quote is opened and not closed");
    }

    /** Returns the problem with the column of the function it names; the engine gives none, or one nearby. */
    static ExpressionProblem located(ExpressionProblem problem, String expression) {
        Matcher function = FUNCTION_TOLD.matcher(problem.getMessage());
        if (!function.find()) {
            return problem;
        }
        Matcher place = Pattern.compile("(?<![\\w:.-])" + Pattern.quote(function.group(1)) + "\\s*\\(")
                .matcher(expression);
        return place.find() ? new ExpressionProblem(problem.getMessage(), place.start() + 1) : problem;
    }
}
