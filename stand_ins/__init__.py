"""Small stand-ins for services outside: they ship with the product, so that everything can be tried and tested here."""
