"""What is asked and what is answered: request, plan, findings as values, and when fingers come and lift."""
