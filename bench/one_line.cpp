// The least that a C++ program can do: what starting `envar` is measured against.
#include <iostream>

int main() { std::cout << "one line\n"; }
