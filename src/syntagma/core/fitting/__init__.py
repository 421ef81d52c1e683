"""Into a limit: whole phrases and their shorter forms, or plain text without a formula."""
