"""What the words of menus say: written from branches, and heard in words that somebody wrote."""
