/** Notes are codes with facts. Sentences of earlier versions become codes where they say no more than one, and texts otherwise. */
export const name = '020-notes-as-codes';

/** The notes of a JSON list of sentences. */
const texts = (column: string) => `coalesce(
  (select jsonb_agg(jsonb_build_object('code', 'text', 'text', one)) from jsonb_array_elements_text(${column}) as one),
  '[]'
)`;

/** The items of a JSON list of paths with sentences, each with a fault instead. */
const faults = (list: string) => `coalesce(
  (select jsonb_agg(one - 'why' || jsonb_build_object('fault',
     jsonb_build_object('code', 'invalid-request', 'what', rtrim(one->>'why', '.'))))
   from jsonb_array_elements(${list}) as one),
  '[]'
)`;

const matched = `case why
  when '' then null
  when 'by path' then '{"code":"by-path"}'
  when 'by name' then '{"code":"by-name"}'
  when 'by its number' then '{"code":"by-number"}'
  when 'by number, counted from 0' then '{"code":"by-number","countedFrom":0}'
  when 'by number, counted from 1' then '{"code":"by-number","countedFrom":1}'
  when 'by the name of the film' then '{"code":"by-film"}'
  when 'by hand' then '{"code":"by-hand"}'
  when 'in its place' then '{"code":"from-entry"}'
  when 'in every language' then '{"code":"every-language"}'
  when 'typed' then '{"code":"typed","in":"words"}'
  when 'typed in Records' then '{"code":"typed","in":"records"}'
  when 'new' then '{"code":"new-entry"}'
  when 'will be removed' then '{"code":"removed"}'
  else jsonb_build_object('code', 'text', 'text', why)::text
end::jsonb`;

export const up = `
alter table changes rename column done to fit_notes;
update changes set fit_notes = ${texts('fit_notes')} where fit_notes <> '[]';
alter table changes add column matched_by jsonb;
update changes set matched_by = ${matched};
alter table changes drop column why;

alter table incoming_files add column matched_by jsonb;
update incoming_files set matched_by = ${matched};
alter table incoming_files drop column why;
update incoming_files set choices = (
  select jsonb_agg(jsonb_build_object(
    'path', one.choice->'path',
    'matchedBy', jsonb_build_object('code', 'text', 'text', one.choice->'why')
  ) order by one.position)
  from jsonb_array_elements(choices) with ordinality as one (choice, position)
) where choices <> '[]';

alter table name_lists rename column trouble to notes;
update name_lists set notes = ${texts('notes')} where notes <> '[]';

-- Estimates are made again. Results of runs stay: a mod file is downloaded by its run, and a mod may wait for an answer.
update games set ways = null;
update runs set result = jsonb_set(result, '{failures}', ${faults("result->'failures'")})
where kind = 'take-out' and jsonb_typeof(result->'failures') = 'array';
update runs set result = jsonb_set(result, '{refused}', ${faults("result->'refused'")})
where kind = 'unlock' and jsonb_typeof(result->'refused') = 'array';
update runs set result = jsonb_set(result, '{files}', coalesce(
  (select jsonb_agg(one - 'why' || jsonb_build_object('reason', jsonb_build_object('code', 'text', 'text', one->'why')))
   from jsonb_array_elements(result->'files') as one), '[]'
)) where kind = 'share' and jsonb_typeof(result->'files') = 'array';
update runs set result = result - 'trouble' || jsonb_build_object('notes', ${texts("result->'trouble'")})
where kind = 'names' and jsonb_typeof(result->'trouble') = 'array';
update runs set result = jsonb_set(result, '{leftOut}', to_jsonb(jsonb_array_length(result->'leftOut')))
where kind = 'bring-mod' and jsonb_typeof(result->'leftOut') = 'array';

update mods set left_out = coalesce(
  (select jsonb_agg(jsonb_build_object('code', 'conflict', 'what', rtrim(one, '.')))
   from jsonb_array_elements_text(left_out) as one), '[]'
) where left_out <> '[]';
`;
