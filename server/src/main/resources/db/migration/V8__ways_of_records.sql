-- the stages each record came to, by their numbers in the outline; runs from before do not say it
alter table record_end add entered text;
