"""Operations that change connectivity."""
