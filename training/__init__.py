"""How the lifter network is made: pictures are drawn, a network learns from them, and what came of it is judged on clips that other code
drew. What it needs beside the developer's tools says its README; the application needs none of it."""
