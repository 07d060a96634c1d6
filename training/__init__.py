"""How the lifter network is made: pictures are drawn, a network learns from them, and what came of it is judged on clips that other code
drew. Needs `requirements/training.txt`; the application needs none of it, only the weights."""
