package wirekettle.core.flow.compile;

import wirekettle.core.flow.file.NoteStage;

/** A note: it does nothing. */
public record CompiledNote(Frame frame) implements Compiled {
    static CompiledNote of(NoteStage stage, Reach reach, Compilation at) {
        return new CompiledNote(at.frame(stage, reach, reach));
    }

    @Override
    public boolean usable() {
        return true;
    }
}
