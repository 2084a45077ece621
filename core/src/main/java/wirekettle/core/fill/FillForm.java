package wirekettle.core.fill;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.util.List;
import java.util.Objects;
import java.util.stream.Stream;
import wirekettle.core.value.ValueFormat;

/** A fill as the flow file writes it: what fills it stands beside its other members, under its own name. */
@JsonInclude(JsonInclude.Include.NON_NULL)
record FillForm(
        String id,
        String target,
        String wire,
        String constant,
        String expression,
        Join join,
        String copy,
        String secret,
        FilledBy.Signature signature,
        Boolean nil,
        String key,
        String number,
        String repeat,
        String as,
        Fill.Each each,
        ValueFormat format,
        Fill.LookUp lookUp,
        Fill.InFolder file,
        Fill.WhenEmpty whenEmpty,
        String when,
        Boolean pick,
        String remark) {
    /** Values put together, as they are written. */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    record Join(List<String> parts, String by) {}

    static FillForm of(Fill fill) {
        FilledBy.Repeat repeat = fill.repeat();
        FilledBy by = repeat == null ? fill.by() : repeat.value();
        return new FillForm(
                fill.id(),
                fill.target(),
                by instanceof FilledBy.Wire wire ? wire.path() : null,
                by instanceof FilledBy.Constant constant ? constant.text() : null,
                by instanceof FilledBy.Expression expression ? expression.xpath() : null,
                by instanceof FilledBy.Join join ? new Join(join.parts(), join.by()) : null,
                by instanceof FilledBy.Copy copy ? copy.from() : null,
                by instanceof FilledBy.Secret secret ? secret.name() : null,
                by instanceof FilledBy.Signature signature ? signature : null,
                by instanceof FilledBy.Nil ? true : null,
                by instanceof FilledBy.Key key ? key.of() : null,
                by instanceof FilledBy.Number number ? number.series() : null,
                repeat == null ? null : repeat.from(),
                repeat == null ? null : repeat.as(),
                repeat == null ? null : repeat.each(),
                fill.format(),
                fill.lookUp(),
                fill.file(),
                fill.whenEmpty(),
                fill.when(),
                by instanceof FilledBy.Pick ? true : null,
                fill.remark());
    }

    Fill fill() {
        return new Fill(id, target, by(), format, lookUp, file, whenEmpty, when, remark);
    }

    private FilledBy by() {
        List<FilledBy> said = Stream.<FilledBy>of(
                        wire == null ? null : new FilledBy.Wire(wire),
                        constant == null ? null : new FilledBy.Constant(constant),
                        expression == null ? null : new FilledBy.Expression(expression),
                        join == null ? null : new FilledBy.Join(join.parts(), join.by()),
                        copy == null ? null : new FilledBy.Copy(copy),
                        secret == null ? null : new FilledBy.Secret(secret),
                        key == null ? null : new FilledBy.Key(key),
                        number == null ? null : new FilledBy.Number(number),
                        signature,
                        Boolean.TRUE.equals(nil) ? new FilledBy.Nil() : null,
                        Boolean.TRUE.equals(pick) ? new FilledBy.Pick() : null)
                .filter(Objects::nonNull)
                .toList();
        if (said.size() > 1) {
            throw new IllegalArgumentException(
                    "the fill “" + id + "” of " + target + " says several things at once: keep one of them");
        }
        FilledBy one = said.isEmpty() ? null : said.get(0);
        if (repeat != null) {
            return new FilledBy.Repeat(repeat, as, each, one);
        }
        return one == null ? new FilledBy.Nothing() : one;
    }
}
