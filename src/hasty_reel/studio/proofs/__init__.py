"""The models of Proofs: what is asked for, the queue, the sheet, the proof that is shown, the findings.

request     frames, samples, size, limits, a sweep, as typed; as orders
queue       orders worked off beside everything else
queuewords  the queue in words
cards       the sheet: laid out once, filtered and sorted
cardtext    a card in words
onview      which proof frame is looked at
giventime   a time that is given to proofs, offered or typed
proveit     proofs that tell most in a given time, one after another
roughpass   all frames small, played as they arrive
findings    sweeps and what each changed setting accounts for
"""
