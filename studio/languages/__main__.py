"""``python -m studio.languages``: gather all messages, compile the catalogues, say what waits."""

from studio.languages.gathering import gather

for (language, domain), waiting in gather().items():
    print(f"{language} {domain}: {len(waiting)} messages wait for their translation")
    for message in waiting:
        print(f"  {message}")
