package wirekettle.core.flow.compile;

import java.util.LinkedHashMap;
import java.util.Map;
import wirekettle.core.flow.file.AnswerStage;
import wirekettle.core.flow.file.BatchStage;
import wirekettle.core.flow.file.BranchStage;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.FilterStage;
import wirekettle.core.flow.file.LookUpStage;
import wirekettle.core.flow.file.MapStage;
import wirekettle.core.flow.file.NoteStage;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.file.SplitStage;
import wirekettle.core.flow.file.Stage;
import wirekettle.core.flow.file.WriteStage;

/** The compiler of every verb: the one place that lists them. */
final class StageCompilers {
    private static final Map<Class<? extends Stage>, StageCompiler<? extends Stage>> ALL = all();

    private StageCompilers() {}

    private static Map<Class<? extends Stage>, StageCompiler<? extends Stage>> all() {
        Map<Class<? extends Stage>, StageCompiler<? extends Stage>> all = new LinkedHashMap<>();
        put(all, ReadStage.class, CompiledRead::of);
        put(all, FilterStage.class, CompiledFilter::of);
        put(all, MapStage.class, CompiledMap::of);
        put(all, LookUpStage.class, CompiledLookUp::of);
        put(all, CallStage.class, CompiledCall::of);
        put(all, SplitStage.class, CompiledSplit::of);
        put(all, BatchStage.class, CompiledBatch::of);
        put(all, BranchStage.class, CompiledBranch::of);
        put(all, WriteStage.class, CompiledWrite::of);
        put(all, AnswerStage.class, CompiledAnswer::of);
        put(all, NoteStage.class, CompiledNote::of);
        return Map.copyOf(all);
    }

    private static <S extends Stage> void put(
            Map<Class<? extends Stage>, StageCompiler<? extends Stage>> all, Class<S> kind, StageCompiler<S> compiler) {
        all.put(kind, compiler);
    }

    @SuppressWarnings("unchecked")
    static Compiled compile(Stage stage, Reach reach, Compilation at) {
        StageCompiler<Stage> compiler = (StageCompiler<Stage>) ALL.get(stage.getClass());
        return compiler.compile(stage, reach, at);
    }
}
